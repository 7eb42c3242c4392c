import { expect, listZip, png, StageHand, test, unzip } from './fixtures';
import { url } from './place';
import type { Page } from '@playwright/test';

/** A team labels a small box dataset from nothing: describe, bring in, hand out, label, check, fix, release. */
test('from an empty installation to a COCO file', async ({ anyone }) => {
  test.setTimeout(180_000);
  // --- the owner of an empty installation
  const ines = await anyone('empty');
  await expect(ines.getByRole('heading', { name: 'Welcome' })).toBeVisible();
  await ines.getByLabel('name').fill('Ines Okafor');
  await ines.getByLabel('e-mail').fill('ines@larkmoor.example');
  await ines.getByLabel(/password/).fill('a long password');
  await ines.getByRole('button', { name: 'Begin' }).click();
  await ines.getByRole('link', { name: 'New project' }).first().click();
  await ines.getByLabel('name', { exact: true }).fill('Crab apples');
  await ines.getByRole('button', { name: /Create/ }).click();

  // --- describe: two classes, a required question, a handbook
  await ines.getByLabel('new classes').fill('Crab apple, Leaf');
  await ines.getByRole('button', { name: 'Add', exact: true }).click();
  await ines.getByRole('tab', { name: 'Questions' }).click();
  await ines.getByRole('button', { name: 'Add a question' }).click();
  await ines.getByLabel('question', { exact: true }).fill('Sound');
  await ines.getByRole('combobox', { name: /^answer/ }).selectOption('yesno');
  await ines.getByLabel('required').check();
  await ines.getByLabel("can't tell").check();
  await ines.getByRole('group', { name: 'asked for' }).getByLabel('Crab apple').check();
  await expect(ines.getByRole('region', { name: 'what the labeller will see' })).toContainText('Sound');
  await ines.getByRole('button', { name: 'Save codebook' }).click();
  await expect(ines.getByText('saved as version 2')).toBeVisible();
  await ines.getByRole('tab', { name: 'Handbook' }).click();
  await ines
    .getByLabel('handbook in Markdown')
    .fill('# Rules\n\n## Crab apple\n\nBox what shows.\n\n<script>window.hacked = true</script>');
  await ines.getByRole('button', { name: 'Save handbook' }).click();
  await expect(ines.getByText('saved as version 1')).toBeVisible();

  // --- bring in: four pictures, one of them broken
  await ines.getByRole('link', { name: 'Bring in' }).click();
  await ines.getByLabel('choose files').setInputFiles([
    { name: 'a.png', mimeType: 'image/png', buffer: png(400, 300, 1) },
    { name: 'b.png', mimeType: 'image/png', buffer: png(400, 300, 2) },
    { name: 'c.png', mimeType: 'image/png', buffer: png(400, 300, 3) },
    { name: 'broken.png', mimeType: 'image/png', buffer: png(400, 300, 4).subarray(0, 90) }
  ]);
  const report = ines.getByRole('region', { name: 'report' });
  await expect(report).toContainText('done');
  await expect(report).toContainText('3 taken');
  await expect(report.getByRole('row', { name: /broken\.png/ })).toContainText('damaged');

  // --- invite a labeller and a reviewer by links
  const invite = async (role: string): Promise<string> => {
    await ines.goto(url('empty', new URL(ines.url()).pathname.replace(/\/[a-z-]+$/, '/people')));
    await ines.getByLabel('as', { exact: true }).selectOption(role);
    await ines.getByRole('button', { name: 'Make a link' }).click();
    return ines.getByLabel('invitation link').inputValue();
  };
  const join = async (link: string, name: string): Promise<Page> => {
    const page = await anyone('empty');
    await page.goto(link);
    await expect(page.getByText('You are invited to Crab apples')).toBeVisible();
    await page.getByLabel('name', { exact: true }).fill(name);
    await page.getByLabel('e-mail').fill(`${name.toLowerCase()}@larkmoor.example`);
    await page.getByLabel(/password/).fill('a long password');
    await page.getByRole('button', { name: 'Join' }).click();
    await expect(page.getByRole('heading', { name: `Hello, ${name}` })).toBeVisible();
    return page;
  };
  const used = await invite('labeller');
  const mei = await join(used, 'Mei');
  const tobias = await join(await invite('reviewer'), 'Tobias');
  await (await anyone('empty')).goto(used).then(async () => {});

  // --- hand out by the sentence
  await ines.getByRole('link', { name: 'Hand out' }).click();
  await ines.getByRole('button', { name: 'to which labellers' }).click();
  await ines.getByLabel(/Mei/).check();
  await ines.getByRole('button', { name: 'which reviewers' }).click();
  await ines.getByLabel(/Tobias/).check();
  await ines.getByRole('button', { name: 'Hand out 3 items' }).click();
  await expect(ines.getByRole('row', { name: /Mei/ })).toContainText('Tobias');

  // --- label three pictures by mouse and keys
  await mei.reload();
  await mei.getByRole('button', { name: 'Continue' }).click();
  const hand = new StageHand(mei);
  await hand.shown();
  await expect(mei.getByText('1 of 3')).toBeVisible();
  await hand.drag(100, 75, 200, 150);
  await expect(mei.getByRole('toolbar').getByRole('button', { name: /no$/ })).toBeVisible();
  await mei.keyboard.press('q'); // yes, on the letter row while the question is open
  await expect(hand.marks.first()).toHaveAttribute('aria-label', /yes/);
  await mei.keyboard.press('ArrowRight');
  await mei.keyboard.press('Shift+ArrowDown');
  await mei.keyboard.press('2'); // the next one is a leaf: with nothing in hand the digit only picks the class
  await mei.keyboard.press('Control+z'); // it changed the mark in hand; take that back
  await expect(hand.marks).toHaveCount(1);
  await mei.keyboard.press('Escape');
  await mei.keyboard.press('2');
  await hand.drag(250, 200, 330, 260);
  await expect(hand.marks).toHaveCount(2);
  await hand.saved();
  const drawn = {
    apple: await hand.numbers(hand.marks.filter({ hasText: 'yes' })),
    leaf: await hand.numbers(mei.getByRole('listitem', { name: /^Leaf 1/ }))
  };
  expect(drawn.apple[0]! - 101).toBeLessThan(2);
  await mei.keyboard.press('s');
  await expect(mei.getByText('2 of 3')).toBeVisible();

  await hand.shown();
  await mei.keyboard.press('1');
  await hand.drag(20, 20, 90, 90);
  await mei.keyboard.press('z'); // can't tell
  await hand.saved();
  await expect(hand.marks.first()).toHaveAttribute('aria-label', /can't tell/);
  await mei.keyboard.press('s');
  await expect(mei.getByText('3 of 3')).toBeVisible();
  await hand.ready();
  await mei.keyboard.press('s');
  await expect(mei.getByRole('alert')).toContainText('nothing is marked here');
  await hand.ready();
  await mei.keyboard.press('f'); // nothing here
  await expect(mei.getByRole('dialog', { name: 'all done' })).toBeVisible();

  // --- the reviewer returns the first with a pin and accepts the others
  await tobias.reload();
  await tobias.getByRole('button', { name: 'Review', exact: true }).click();
  const check = new StageHand(tobias);
  await check.shown();
  await expect(tobias.getByText('review of Mei')).toBeVisible();
  await tobias.keyboard.press('f');
  await check.click(210, 160);
  // typed as a person types, right after the press on the stage: the field has the focus, no letter is a command
  await expect(tobias.getByLabel(/what is wrong here/)).toBeFocused();
  await tobias.keyboard.type('the stem belongs to it');
  await tobias.getByRole('button', { name: 'Pin', exact: true }).click();
  await expect(tobias.getByRole('region', { name: 'what was said' })).toContainText('the stem belongs to it');
  await tobias.keyboard.press('g');
  await tobias.keyboard.type('include the stem');
  await tobias.getByRole('button', { name: 'Return', exact: true }).click();
  await expect(tobias.getByText('a.png')).toHaveCount(0);
  for (const name of ['b.png', 'c.png']) {
    await expect(tobias.locator('.crumbs')).toContainText(name);
    await check.ready();
    await tobias.getByRole('button', { name: 'Accept', exact: true }).click();
  }
  await expect(tobias.getByRole('dialog', { name: 'all done' })).toBeVisible();

  // --- the labeller sees what came back and why, fixes it, submits again
  await mei.goto(url('empty'));
  await expect(mei.getByText('the stem belongs to it')).toBeVisible();
  await mei.getByRole('link', { name: 'Fix it' }).click();
  await hand.shown();
  await expect(mei.getByText('include the stem')).toBeVisible();
  await expect(mei.getByText('round 2')).toBeVisible();
  await mei
    .getByRole('listitem', { name: /^Crab apple 1/ })
    .getByRole('button')
    .first()
    .click();
  const before = await hand.numbers(mei.getByRole('listitem', { name: /^Crab apple 1/ }));
  await hand.drag(before[0]! + before[2]!, before[1]! + before[3]!, before[0]! + before[2]! + 20, before[1]! + before[3]! + 15);
  await hand.saved();
  const fixed = await hand.numbers(mei.getByRole('listitem', { name: /^Crab apple 1/ }));
  expect(Math.abs(fixed[2]! - before[2]! - 20)).toBeLessThan(1.5);
  await mei.getByRole('button', { name: 'Submit', exact: true }).click();
  await expect(mei.getByRole('dialog', { name: 'all done' })).toBeVisible();
  await tobias.goto(url('empty'));
  await tobias.getByRole('button', { name: 'Review', exact: true }).click();
  await check.ready();
  await tobias.keyboard.press('s');
  await expect(tobias.getByRole('dialog', { name: 'all done' })).toBeVisible();

  // --- release, and the numbers in the file are those that were drawn
  await ines.getByRole('link', { name: 'Release' }).click();
  await ines.getByLabel(/into train, val and test/).uncheck();
  await expect(ines.getByText('3 marks on 3 labelled pictures')).toBeVisible();
  await ines.getByRole('button', { name: 'Freeze release 1' }).click();
  await ines.getByRole('button', { name: 'write COCO', exact: true }).click();
  await expect(ines.getByText(/read back: 3 marks, no difference/)).toBeVisible({ timeout: 20_000 });
  const [download] = await Promise.all([ines.waitForEvent('download'), ines.getByRole('link', { name: 'download' }).click()]);
  const file = await download.path();
  expect(listZip(file)).toEqual(
    expect.arrayContaining(['annotations/all.json', 'datasheet.json', 'images/a.png', 'images/b.png', 'images/c.png'])
  );
  const coco = JSON.parse(unzip(file, 'annotations/all.json'));
  expect(coco.images.map((i: { file_name: string }) => i.file_name)).toEqual(['a.png', 'b.png', 'c.png']);
  const of = (id: number) => coco.annotations.filter((a: { image_id: number }) => a.image_id === id);
  expect(of(1).map((a: { bbox: number[] }) => a.bbox)).toEqual(expect.arrayContaining([fixed, drawn.leaf]));
  expect(of(2)[0].attributes).toEqual({ no_value: { sound: 'unsure' } });
  expect(of(3)).toEqual([]);
  expect(JSON.parse(unzip(file, 'datasheet.json')).nothing_there).toEqual(['c.png']);
});
