import { expect, freeAll, sql, StageHand, test } from './fixtures';
import { url } from './place';
import type { Page } from '@playwright/test';

/** Looking closer, seeing all, getting around, setting aside and asking. */
test.beforeEach(() => {
  freeAll('demo');
  // what was seen in earlier tests is seen
  sql('demo', 'delete from seen');
});
test.afterEach(() => void sql('demo', 'update projects set require_seen = 0, seen_zoom = 0.5'));

async function bench(page: Page): Promise<StageHand> {
  await page.getByRole('region', { name: 'my work in Canopy walk' }).getByRole('button', { name: 'Continue' }).click();
  const hand = new StageHand(page);
  await hand.shown();
  return hand;
}
const zoom = async (page: Page): Promise<number> => Number((await page.locator('#stage-view').textContent())!.match(/zoom ([\d.]+)/)![1]);

test('what has not been seen is shaded, and blocks a submit until it was on the screen', async ({ person }) => {
  const ines = await person('Ines Okafor');
  await ines.goto(url('demo', '/p/1/people'));
  await ines.getByText('all of a picture must have been on the screen').click();
  await ines.getByLabel(/a pixel of the picture on at least/).fill('1');
  await ines.getByRole('button', { name: 'Save' }).click();
  await expect(ines.getByRole('status').filter({ hasText: 'saved' })).toBeVisible();

  // whatever was said of these pictures by tests before: their own question is open
  sql('demo', `update layers set answers = '{}' where item_id in (select item_id from turns where project_id = 1 and state in ('open', 'waiting', 'returned'))`); // prettier-ignore
  const mei = await person('Mei Castellan');
  const hand = await bench(mei);
  await hand.clear();
  const todo = mei.getByRole('status', { name: 'still to do' });
  await expect(todo).toContainText('100 % not seen');
  const deck = mei.getByRole('toolbar', { name: 'deck' });
  await hand.ready();
  await deck.getByRole('button', { name: 'nothing here' }).click();
  await expect(mei.getByRole('alert')).toContainText('has not been looked at close up');

  // the key leads from part to part, each close enough to count
  const unseen = deck.getByRole('button', { name: 'unseen' });
  for (let n = 0; n < 30 && (await unseen.isVisible()); n++) {
    const before = await todo.textContent();
    await mei.keyboard.press('b');
    await expect.poll(() => zoom(mei)).toBeCloseTo(1, 1);
    await expect(todo).not.toHaveText(before!);
  }
  await expect(unseen).toBeHidden();
  await expect(todo).not.toContainText('not seen');
  const item = (await hand.stage.getAttribute('aria-label'))!;
  await mei.keyboard.press('f');
  // the picture's own question still has to be answered; what was seen is seen
  await expect(mei.getByRole('alert')).toContainText('Usable picture is not answered');
  const kept = JSON.parse(
    sql('demo', `select cells from seen join users on users.id = seen.user_id where users.name = 'Mei Castellan'`)
  ) as { cells: string }[];
  expect(kept.some((k) => !k.cells.includes('0'))).toBe(true);
  await mei.reload();
  await hand.shown();
  await expect(hand.stage).toHaveAttribute('aria-label', item);
  await expect(unseen).toBeHidden();
});

test('an item is parked with a reason, asked about, answered there, and taken up again', async ({ person }) => {
  const ravi = await person('Ravi Sørby');
  const hand = await bench(ravi);
  const item = (await hand.stage.getAttribute('aria-label'))!;
  const name = item.match(/picture (\S+),/)![1]!;
  const deck = ravi.getByRole('toolbar', { name: 'deck' });
  await ravi.keyboard.press('Escape');
  await deck.getByRole('button', { name: 'picture' }).click();
  await deck.getByRole('button', { name: 'ask' }).click();
  await ravi.keyboard.type('Is the dark one scab or dirt?');
  await ravi.getByRole('button', { name: 'Ask', exact: true }).click();
  await expect(ravi.getByRole('region', { name: 'questions' })).toContainText('scab or dirt? (no answer yet)');
  await ravi.keyboard.press('r');
  await ravi.keyboard.press('b');
  await ravi.keyboard.type('waiting for an answer');
  await ravi.getByRole('button', { name: 'Park', exact: true }).click();
  await expect(hand.stage).not.toHaveAttribute('aria-label', item);

  // the reviewer answers without leaving the list
  const tobias = await person('Tobias Lindqvist');
  await tobias.goto(url('demo', '/p/1/check'));
  await tobias.getByRole('textbox', { name: 'answer to Ravi Sørby' }).pressSequentially('Dirt: it wipes off.');
  await tobias.getByRole('button', { name: 'Answer', exact: true }).click();
  await expect(tobias.getByText('answered by Tobias Lindqvist: Dirt: it wipes off.')).toBeVisible();

  // it waits on the start page with its reason and its answer
  await ravi.goto(url('demo', '/'));
  const mine = ravi.getByRole('region', { name: 'my work in Canopy walk' });
  await expect(mine.getByRole('listitem').filter({ hasText: name })).toContainText('waiting for an answer');
  await expect(ravi.getByRole('region', { name: 'answers to what you proposed and asked' })).toContainText('Dirt: it wipes off.');
  await mine.getByRole('listitem').filter({ hasText: name }).getByRole('link', { name: 'Take it up' }).click();
  await hand.shown();
  await expect(hand.stage).toHaveAttribute('aria-label', item);
  await expect(ravi.getByRole('region', { name: 'questions' })).toContainText('Tobias: Dirt: it wipes off.');
  await expect(ravi.getByRole('banner').getByRole('button', { name: 'Submit' })).toBeVisible();
});

test('zooms go by steps and between two, the view is kept, and an item is found by its number', async ({ person }) => {
  const aoife = await person('Aoife Duarte');
  const hand = await bench(aoife);
  const whole = await zoom(aoife);
  await aoife.keyboard.press('+');
  const step = await zoom(aoife);
  expect([0.5, 2 / 3, 1].some((s) => Math.abs(s - step) < 0.01)).toBe(true);
  await aoife.keyboard.press('+');
  const close = await zoom(aoife);
  await aoife.keyboard.press('z');
  await expect.poll(() => zoom(aoife)).toBeCloseTo(whole, 3);
  await aoife.keyboard.press('z');
  await expect.poll(() => zoom(aoife)).toBeCloseTo(close, 3);

  await aoife.getByRole('button', { name: 'view', exact: true }).click();
  const panel = aoife.getByRole('group', { name: 'view' });
  await panel.getByRole('slider', { name: /^gamma/ }).fill('2');
  await panel.getByRole('slider', { name: /^brightness/ }).fill('0.6');
  await panel.getByLabel('write the class at every mark').check();
  await expect(hand.stage.locator('canvas').first()).toHaveCSS('filter', /brightness\(0\.6\).*gamma/);
  await expect
    .poll(() => sql('demo', `select settings from users where name = 'Aoife Duarte'`))
    .toMatch(/gamma.{0,6}2.*mark_names.{0,6}true/s);
  await aoife.reload();
  await hand.shown();
  await expect(hand.stage.locator('canvas').first()).toHaveCSS('filter', /brightness\(0\.6\)/);
  await aoife.getByRole('button', { name: 'view', exact: true }).click();
  await panel.getByRole('button', { name: 'As it is' }).click();
  await expect(hand.stage.locator('canvas').first()).toHaveCSS('filter', 'none');
  await aoife.keyboard.press('Escape');

  await aoife.keyboard.press('End');
  const goto = aoife.getByRole('search', { name: 'go to an item' });
  await expect(goto.getByRole('listitem').first()).toBeVisible();
  const here = (await aoife.locator('.crumbs strong').textContent())!;
  const wanted = goto.getByRole('listitem').filter({ hasNotText: here }).last();
  const place = (await wanted.locator('.num').first().textContent())!;
  const name = (await wanted.locator('.name').textContent())!;
  await goto.getByLabel('number or name').pressSequentially(place);
  await expect(goto.getByRole('listitem').filter({ hasText: name })).toBeVisible();
  await goto.getByRole('listitem').filter({ hasText: name }).getByRole('button').click();
  await expect(hand.stage).toHaveAttribute('aria-label', new RegExp(name));
});
