import AxeBuilder from '@axe-core/playwright';
import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { artisan, expect, freeAll, member, png, sql, StageHand, test } from './fixtures';
import { folders, url } from './place';

/** A project of its own, described from the first class on, labelled by Mei. */
const name = `Described ${Date.now()}`;
const folder = join(folders.demo, 'described');
let project = 0;

test.describe.configure({ mode: 'serial' });
test.beforeAll(() => {
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(join(folder, 'pictures'), { recursive: true });
  for (let i = 0; i < 3; i++) writeFileSync(join(folder, 'pictures', `d${i}.png`), png(400, 300, 70 + i));
});
test.beforeEach(() => void freeAll('demo'));

const stored = (): { class: string; kind: string; answers: Record<string, unknown>; geometry: Record<string, never> }[] =>
  JSON.parse(
    sql('demo', `select class, kind, answers, geometry from marks where project_id = ${project} and deleted_at is null order by id`)
  ).map((m: Record<string, string>) => ({
    ...m,
    answers: JSON.parse(m.answers!),
    geometry: JSON.parse(m.geometry!)
  }));
/** What is said of the pictures as a whole. */
const said = (): { answers: Record<string, unknown>; tags: string[] }[] =>
  JSON.parse(sql('demo', `select answers, tags from layers where project_id = ${project} and revision > 0 order by id`)).map(
    (l: Record<string, string>) => ({ answers: JSON.parse(l.answers!), tags: JSON.parse(l.tags!) })
  );
const save = async (page: Page) => {
  await page.getByRole('button', { name: 'Save codebook' }).click();
  await expect(page.getByText(/saved as version|is in force/)).toBeVisible();
};
const tab = (page: Page, word: RegExp | string) => page.getByRole('tab', { name: word }).click();
async function bench(mei: Page): Promise<StageHand> {
  const turn = JSON.parse(
    sql(
      'demo',
      `select id from turns where project_id = ${project} and stage = 'label' and state in ('waiting', 'open') order by id limit 1`
    )
  )[0];
  await mei.goto(url('demo', `/p/${project}/bench/${turn.id}`));
  const hand = new StageHand(mei);
  await hand.shown();
  return hand;
}

test('a project begins with a template and is described further', async ({ person }) => {
  const ines = await person('Ines Okafor');
  await ines.goto(url('demo', '/projects/new'));
  await ines.getByLabel('name', { exact: true }).fill(name);
  await ines.getByRole('radio', { name: /Fruit in boxes/ }).check();
  await ines.getByRole('button', { name: /Create/ }).click();
  await expect(ines.getByRole('button', { name: /Apple/ }).first()).toBeVisible();
  project = JSON.parse(sql('demo', `select id from projects where name = '${name}'`))[0].id;
  member(project, 'Mei Castellan', 'labeller');
  artisan('skeno:import', name, join(folder, 'pictures'), '--json');

  // a class another project has, with the questions it asks there
  await ines.reload();
  await ines.getByRole('button', { name: 'Leaf scab', exact: true }).click();
  await expect(ines.getByRole('button', { name: /Leaf scab/, expanded: true })).toBeVisible();

  // a question asked only after an answer, about the picture; tags that exclude each other
  await tab(ines, 'Questions');
  await ines.getByRole('button', { name: 'Add a question' }).click();
  await ines.getByLabel('question', { exact: true }).fill('Row');
  await ines.getByRole('combobox', { name: 'about' }).selectOption('item');
  await ines.getByRole('button', { name: 'Add a question' }).click();
  await ines.getByLabel('question', { exact: true }).fill('Depth');
  await ines.getByRole('combobox', { name: 'about' }).selectOption('item');
  await ines.getByRole('button', { name: 'ask only after certain answers' }).click();
  await ines.getByLabel('question it depends on').selectOption({ label: 'Row' });
  await tab(ines, 'Tags and limits');
  await ines.getByLabel('new tags').fill('Dull, Bright');
  await ines.getByLabel('new tags').press('Enter');
  await ines.getByLabel('group of Dull').fill('light');
  await ines.getByLabel('group of Bright').fill('light');
  await save(ines);

  // a skeleton placed by hand over a picture of the project
  await tab(ines, 'Skeletons');
  await ines.getByRole('button', { name: 'New skeleton' }).click();
  const canvas = ines.getByRole('application', { name: /skeleton/ });
  const nodes = ines.getByRole('list', { name: 'nodes' }).getByRole('listitem');
  const before = await nodes.count();
  const box = (await canvas.boundingBox())!;
  for (const [x, y] of [
    [0.3, 0.3],
    [0.7, 0.3],
    [0.4, 0.55]
  ])
    await ines.mouse.click(box.x + box.width * x!, box.y + box.height * y!);
  await expect(nodes).toHaveCount(before + 3);
  await ines.getByRole('button', { name: 'undo' }).click();
  await expect(nodes).toHaveCount(before + 2);
  await ines.getByRole('button', { name: 'redo' }).click();
  await ines.getByLabel('number all').fill('Tip');
  await ines.getByRole('button', { name: 'Number', exact: true }).click();
  await expect(nodes.first()).toContainText('Tip 1');
  const [download] = await Promise.all([ines.waitForEvent('download'), ines.getByRole('button', { name: 'SVG' }).click()]);
  expect(readFileSync((await download.path())!, 'utf8')).toMatch(/<svg[^>]*>[\s\S]*<circle/);
  await ines.getByRole('button', { name: 'Remove skeleton' }).click();

  // no tab has a serious fault, in either theme
  const faults: string[] = [];
  for (const dark of [false, true]) {
    await ines.evaluate((d) => (document.documentElement.dataset.theme = d ? 'dusk' : 'paper'), dark);
    for (const word of ['Classes', 'Questions', 'Tags and limits', 'Skeletons', 'As JSON', 'Handbook', /^Proposals/]) {
      await tab(ines, word);
      // what still fades has colours in between
      await ines.evaluate(() => Promise.allSettled(document.getAnimations().map((moving) => moving.finished)));
      for (const v of (await new AxeBuilder({ page: ines }).analyze()).violations)
        if (v.impact === 'serious' || v.impact === 'critical')
          faults.push(`${word} ${dark ? 'dusk' : 'paper'}: ${v.id} ${v.nodes[0]?.target.join(' ')}`);
    }
  }
  expect(faults).toEqual([]);
  await ines.goto(url('demo', `/p/${project}/hand-out`));
  await ines.getByRole('button', { name: 'to which labellers' }).click();
  await ines.getByRole('checkbox', { name: /Mei Castellan/ }).check();
  await ines.getByRole('button', { name: 'Hand out' }).click();
  await expect(ines.getByText(/3 items/).first()).toBeVisible();
});

test('conditions, tags and limits are kept on the bench, and all is done by keys', async ({ person }) => {
  const mei = await person('Mei Castellan');
  const hand = await bench(mei);
  const key = async (...keys: string[]) => {
    for (const k of keys) await mei.keyboard.press(k);
  };
  // the picture's page: a question, which opens another; of two tags in a group one stays
  await key('Escape', 'r');
  const deck = mei.getByRole('toolbar', { name: 'deck' });
  await expect(deck.getByRole('button', { name: 'Row' })).toBeVisible();
  await expect(deck.getByRole('button', { name: 'Depth' })).toHaveCount(0);
  await key('a', 'd');
  await expect(deck.getByRole('button', { name: 'Bright', pressed: true })).toBeVisible();
  await key('q', 'q');
  await expect(deck.getByRole('group', { name: 'Depth' })).toBeVisible();
  await key('w', 'Escape', 'Escape');
  await hand.saved();
  expect(said()).toMatchObject([{ answers: { row: { value: 'yes' }, depth: { value: 'no' } }, tags: ['bright'] }]);

  // a box from its first corner to its last without a pointer, then its corner by the pixel
  await key('1', 'e');
  await hand.stage.focus();
  const tag = mei.locator('.tag');
  for (let i = 0; i < 5; i++) await key('Shift+ArrowLeft');
  await expect(tag).toBeVisible();
  await key('.');
  for (let i = 0; i < 6; i++) await key('Shift+ArrowRight', 'Shift+ArrowDown');
  await expect(mei.locator('.loupe')).toBeVisible();
  await key('.');
  await expect(hand.marks).toHaveCount(1);
  await key('w');
  await hand.saved();
  const first = (await hand.numbers(hand.marks.first())).slice(2);
  expect(Math.abs(first[0]! - 60)).toBeLessThan(3);
  expect(Math.abs(first[1]! - 60)).toBeLessThan(3);

  // locked, it stays; a look at the air round it moves nothing
  await key('q', 'f', 'e', 'ArrowRight', 'ArrowRight');
  await expect(mei.getByText(/locked/).first()).toBeVisible();
  await hand.saved();
  expect((await hand.numbers(hand.marks.first())).slice(2)).toEqual(first);
  const x = (stored().find((m) => m.kind === 'box')!.geometry as unknown as { x: number }).x;
  await key('f', 'e', 'f', 't');
  await expect(mei.getByText(/air round the object/)).toBeVisible();
  await hand.saved();
  expect((stored().find((m) => m.kind === 'box')!.geometry as unknown as { x: number }).x).toBe(x);

  // what nobody has labelled is shown on demand, and the keys can be moved
  await key('Escape', 'Escape', '2', 'e', 'e', 'b');
  await expect(deck.getByRole('button', { name: 'coverage' })).toBeVisible();
  await key('w');
  await expect(deck.getByRole('button', { name: 'coverage', pressed: true })).toBeVisible();
  await mei.goto(url('demo', '/account'));
  await mei.getByRole('button', { name: 'Q pick' }).click();
  await mei.keyboard.press('KeyW');
  await expect(mei.getByRole('alert')).toContainText('W is the key of “pan” already');
  await mei.getByRole('button', { name: 'Swap the two' }).click();
  await expect(mei.getByRole('button', { name: 'W pick' })).toBeVisible();
  const again = await bench(mei);
  await mei.keyboard.press('KeyW');
  await expect(deck.getByRole('button', { name: 'pick', pressed: true })).toBeVisible();
  await again.saved();
  await mei.goto(url('demo', '/account'));
  await mei.getByRole('button', { name: 'As shipped' }).click();
  await expect(mei.getByRole('button', { name: 'Q pick' })).toBeVisible();
});

test('a codebook changed under an open bench loses nothing', async ({ person }) => {
  const mei = await person('Mei Castellan');
  const hand = await bench(mei);
  await expect(hand.marks).toHaveCount(1);
  const ines = await person('Ines Okafor');
  await ines.goto(url('demo', `/p/${project}/describe`));
  await tab(ines, 'As JSON');
  const json = ines.getByLabel('codebook as JSON');
  await expect(json).not.toHaveValue('');
  const doc = JSON.parse(await json.inputValue());
  doc.classes[0].key = 'fruit';
  doc.classes[0].name = 'Fruit';
  doc.attributes[0].options[1] = { key: 'colouring', name: 'Colouring' };
  doc.tags = [{ key: 'plain', name: 'Plain' }];
  await json.fill(JSON.stringify(doc));
  const effects = ines.getByRole('region', { name: 'what becomes of labels' });
  await expect(effects).toContainText('in use would have no place');
  await expect(ines.getByRole('button', { name: 'Save codebook' })).toBeDisabled();
  await effects.getByLabel('Apple goes to').selectOption('=fruit');
  await effects.getByLabel('Ripeness: Turning goes to').selectOption('=colouring');
  await effects.getByLabel('Bright goes to').selectOption('-');
  await expect(effects).toContainText('1 mark of "Apple" will be "Fruit"');

  // Mei, without a network, draws another apple in the old words
  await mei.context().setOffline(true);
  await mei.keyboard.press('Escape');
  await mei.keyboard.press('1');
  await mei.keyboard.press('e');
  await hand.drag(250, 200, 300, 260);
  await mei.keyboard.press('w');
  await expect(hand.marks).toHaveCount(2);
  await save(ines);
  expect(stored().find((m) => m.kind === 'box')).toMatchObject({ class: 'fruit', answers: { ripeness: { value: 'colouring' } } });
  await mei.context().setOffline(false);
  await expect(mei.getByText('the codebook has changed; your work is kept')).toBeVisible({ timeout: 30_000 });
  await hand.saved();
  await expect(mei.getByRole('listitem', { name: /^Fruit 2 / })).toBeVisible();
  expect(
    stored()
      .filter((m) => m.kind === 'box')
      .map((m) => [m.class, m.answers.ripeness])
  ).toEqual([
    ['fruit', { value: 'colouring' }],
    ['fruit', { value: 'colouring' }]
  ]);
  expect(said()[0]!.tags).toEqual([]);
  // what was done before can still be undone, in the words of now
  await mei.keyboard.press('Control+z');
  await mei.keyboard.press('Control+z');
  await expect(hand.marks).toHaveCount(1);
  await mei.keyboard.press('Control+Shift+z');
  await expect(mei.getByRole('listitem', { name: /^Fruit 2 / })).toBeVisible();
  await hand.saved();
  expect(stored().filter((m) => m.class === 'fruit')).toHaveLength(2);
});

test('a rule is proposed at the bench and answered; the handbook opens where the class is', async ({ person }) => {
  const ines = await person('Ines Okafor');
  await ines.goto(url('demo', `/p/${project}/describe`));
  await tab(ines, 'Handbook');
  writeFileSync(join(folder, 'leaf.png'), png(60, 40, 9));
  await ines
    .getByLabel('handbook in Markdown')
    .fill(`# Rules\n\n${'Look at everything twice.\n\n'.repeat(60)}## Fruit\n\nTouch it on all sides.\n`);
  await ines.getByLabel('pictures for the handbook').setInputFiles(join(folder, 'leaf.png'));
  await expect(ines.locator('.prose img')).toBeVisible();
  writeFileSync(join(folder, 'bad.pdf'), '%PDF-1.7\nnot really');
  await ines.getByLabel('PDF for the handbook').setInputFiles(join(folder, 'bad.pdf'));
  await expect(ines.getByRole('alert')).toContainText('bad.pdf was not taken');
  await ines.getByRole('button', { name: 'Save handbook' }).click();
  await expect(ines.getByText('saved as version 1')).toBeVisible();

  const mei = await person('Mei Castellan');
  await bench(mei);
  await mei.getByRole('button', { name: 'Handbook' }).click();
  const book = mei.getByRole('complementary', { name: 'handbook' });
  await expect(book.getByRole('heading', { name: 'Fruit' })).toBeInViewport();
  await mei.getByLabel('search the handbook').pressSequentially('twice');
  await expect(book.getByRole('status').first()).toHaveText('60');
  await mei.getByLabel('what you propose').pressSequentially('Fruit on the ground is left out.');
  await mei.getByRole('button', { name: 'Propose', exact: true }).click();
  await expect(book.getByText('sent to the manager')).toBeVisible();
  await ines.goto(url('demo', '/'));
  await ines
    .getByRole('region', { name: 'what waits for your decision' })
    .getByRole('listitem')
    .filter({ hasText: name })
    .getByRole('link', { name: /1 proposal/ })
    .click();
  await ines.getByLabel('answer to Mei Castellan').fill('Yes, leave it out.');
  await ines.getByRole('button', { name: 'Take it', exact: true }).click();
  await expect(ines.getByText('taken by Ines Okafor')).toBeVisible();
  await mei.goto(url('demo', '/'));
  await expect(mei.getByRole('region', { name: 'answers to what you proposed' })).toContainText('Yes, leave it out.');
});

test('labels lying beside pictures are offered', async ({ person }) => {
  const ines = await person('Ines Okafor');
  await ines.goto(url('demo', `/p/${project}/bring-in`));
  const files = [
    { name: 'e0.png', mimeType: 'image/png', buffer: png(200, 100, 91) },
    { name: 'e0.txt', mimeType: 'text/plain', buffer: Buffer.from('0 0.5 0.5 0.2 0.4\n') },
    { name: 'classes.names', mimeType: 'text/plain', buffer: Buffer.from('Fruit\n') }
  ];
  await ines.getByLabel('choose files').setInputFiles(files);
  const offer = ines.getByRole('form', { name: 'label files beside the pictures' });
  await expect(offer).toContainText('YOLO boxes (1 file)');
  await offer.getByLabel('they come in as').selectOption('suggestions');
  await offer.getByRole('button', { name: 'Take them in' }).click();
  await expect(ines.getByRole('region', { name: 'report' })).toContainText('1 objects on 1 items');
  expect(JSON.parse(sql('demo', `select geometry from marks where project_id = ${project} and layer = 'suggestion'`))).toEqual([
    { geometry: expect.stringContaining('"x":80') }
  ]);
});

test('a description that is not saved is kept, asked about on leaving, and its faults are said where they are', async ({ person }) => {
  const ines = await person('Ines Okafor');
  await ines.goto(url('demo', `/p/${project}/describe`));
  await expect(ines.getByRole('status').filter({ hasText: 'version' })).toBeVisible();
  const typed = ines.getByLabel('new classes');
  await typed.click();
  await typed.pressSequentially('Body');
  await ines.getByRole('button', { name: 'Add', exact: true }).click();
  const body = ines.getByRole('article').filter({ has: ines.getByRole('button', { name: 'Body up' }) });
  await expect(body.getByRole('button', { expanded: true })).toBeVisible();
  // drawn as a skeleton that there is not: said in words, at its place and on its tab
  for (const [shape, on] of [
    ['skeleton', true],
    ['box', false]
  ] as const)
    await body.getByRole('checkbox', { name: shape, exact: true }).setChecked(on);
  await expect(body.getByRole('alert')).toHaveText('Body needs a skeleton');
  await expect(ines.getByRole('tab', { name: /^Classes ?1$/ })).toBeVisible();
  await expect(ines.getByRole('button', { name: 'Save codebook' })).toBeDisabled();
  await body.getByRole('checkbox', { name: 'box', exact: true }).check();
  await body.getByRole('checkbox', { name: 'skeleton', exact: true }).uncheck();
  await expect(body.getByRole('alert')).toHaveCount(0);
  // a question nobody is asked
  await tab(ines, 'Questions');
  await ines.getByRole('button', { name: 'Add a question' }).click();
  const question = ines.getByLabel('question', { exact: true });
  await question.click();
  await question.press('Control+a');
  await question.pressSequentially('Weight');
  await question.press('Tab');
  const weight = ines.getByRole('article').filter({ has: ines.getByRole('button', { name: 'Weight up' }) });
  for (const asked of await weight.getByRole('checkbox', { checked: true }).all()) await asked.uncheck();
  await expect(weight.getByRole('status')).toContainText('Weight is asked for no class');

  // leaving asks; staying stays
  const places = ines.getByRole('navigation', { name: 'places' });
  await places.getByRole('link', { name: 'Hand out' }).click();
  const dialog = ines.getByRole('dialog', { name: 'not saved yet' });
  await expect(dialog).toBeVisible();
  await ines.keyboard.press('Escape');
  await expect(dialog).toBeHidden();
  await expect(ines.getByRole('heading', { level: 1, name: 'Describe' })).toBeVisible();
  await places.getByRole('link', { name: 'Hand out' }).click();
  await dialog.getByRole('button', { name: 'Go, and keep it here' }).click();
  await expect(ines.getByRole('heading', { level: 1, name: 'Hand out' })).toBeVisible();
  // it is there again, and gone when it is dropped
  await places.getByRole('link', { name: 'Describe' }).click();
  await expect(ines.getByText('what you had not saved is here again')).toBeVisible();
  await expect(ines.getByRole('button', { name: 'Body up' })).toBeVisible();
  await places.getByRole('link', { name: 'Hand out' }).click();
  await dialog.getByRole('button', { name: 'Drop the changes' }).click();
  await expect(ines.getByRole('heading', { level: 1, name: 'Hand out' })).toBeVisible();
  await places.getByRole('link', { name: 'Describe' }).click();
  await expect(ines.getByRole('button', { name: 'Leaf scab up' })).toBeVisible();
  await expect(ines.getByRole('button', { name: 'Body up' })).toHaveCount(0);
});
