import { expect, freeAll, sql, StageHand, test } from './fixtures';
import { url } from './place';
import type { Page } from '@playwright/test';

/** The unlucky paths: offline, killed, two people on one item, a lease that ran out, a session that ended. */
test.beforeEach(() => void freeAll('demo'));

async function bench(page: Page): Promise<StageHand> {
  await page.getByRole('region', { name: 'my work in Canopy walk' }).getByRole('button', { name: 'Continue' }).click();
  const hand = new StageHand(page);
  await hand.shown();
  return hand;
}
const count = (id: number) =>
  JSON.parse(sql('demo', `select count(*) as n from marks where deleted_at is null and turn_id = ${id}`))[0].n as number;
const turnOf = (page: Page) => Number(page.url().match(/bench\/(\d+)/)![1]);

test('offline work is kept, and delivered after the page was killed', async ({ person }) => {
  const mei = await person('Mei Castellan');
  const hand = await bench(mei);
  await hand.clear();
  const turn = turnOf(mei);
  const before = count(turn);
  await mei.context().setOffline(true);
  await hand.drag(100, 100, 220, 220);
  await mei.keyboard.press('w'); // an answer, by its key
  await mei.keyboard.press('Escape');
  await mei.keyboard.press('Escape');
  await mei.keyboard.press('e');
  await hand.drag(300, 300, 420, 420);
  await expect(mei.getByRole('status', { name: 'saved state' })).toContainText(/offline, \d waiting/);
  expect(count(turn)).toBe(before);
  const address = mei.url();
  const context = mei.context();
  await mei.close();
  await context.setOffline(false);
  const again = await context.newPage();
  await again.goto(address);
  const after = new StageHand(again);
  await after.shown();
  await expect(after.marks).toHaveCount(2);
  await after.saved();
  expect(count(turn)).toBe(before + 2);
  await again.reload();
  await after.shown();
  await expect(after.marks).toHaveCount(2);
  await after.clear();
});

test('two labellers race for the queue and never hold the same item', async ({ person }) => {
  const [mei, ravi] = [await person('Mei Castellan'), await person('Ravi Sørby')];
  await Promise.all([
    mei.getByRole('region', { name: 'my work in Canopy walk' }).getByRole('button', { name: 'Continue' }).click(),
    ravi.getByRole('region', { name: 'my work in Canopy walk' }).getByRole('button', { name: 'Continue' }).click()
  ]);
  await Promise.all([new StageHand(mei).shown(), new StageHand(ravi).shown()]);
  expect(turnOf(mei)).not.toBe(turnOf(ravi));
  const held = JSON.parse(sql('demo', "select item_id, count(*) as n from turns where state = 'open' group by item_id having n > 1"));
  expect(held).toEqual([]);
  // going straight to the other's item shows that it is taken, and nothing can be drawn on it
  await ravi.goto(url('demo', new URL(mei.url()).pathname));
  await expect(ravi.getByRole('alert')).toContainText('somebody else is working on this item');
  await expect(ravi.getByText('only to look at')).toBeVisible();
});

test('the same mark changed in two windows is a visible conflict, not a silent overwrite', async ({ person }) => {
  const mei = await person('Mei Castellan');
  const one = await bench(mei);
  await one.clear();
  await one.drag(100, 100, 220, 220);
  await one.saved();
  const second = await mei.context().newPage();
  await second.goto(mei.url());
  const two = new StageHand(second);
  await two.shown();
  await two.marks.first().getByRole('button').first().click();
  await second.keyboard.press('Shift+ArrowRight');
  await two.saved();
  const moved = await two.numbers(two.marks.first());
  await mei.bringToFront();
  await mei.keyboard.press('Escape');
  await one.pick(one.marks.first());
  await mei.keyboard.press('Shift+ArrowDown');
  await expect(mei.getByText('was changed elsewhere meanwhile')).toBeVisible();
  expect(await one.numbers(one.marks.first())).toEqual(moved);
  await mei.getByRole('button', { name: 'use mine' }).click();
  await one.saved();
  expect((await one.numbers(one.marks.first()))[1]).toBeGreaterThan(moved[1]!);
  await second.close();
  await one.clear();
});

test('a lease that ran out gives the item to the next person, and late edits are held and shown', async ({ person }) => {
  const mei = await person('Mei Castellan');
  const hand = await bench(mei);
  await hand.clear();
  const turn = turnOf(mei);
  await hand.drag(100, 100, 220, 220);
  await hand.saved();
  freeAll('demo');
  const ravi = await person('Ravi Sørby');
  await ravi.goto(url('demo', `/p/1/bench/${turn}`));
  const theirs = new StageHand(ravi);
  await theirs.shown();
  await expect(theirs.marks).toHaveCount(1);
  await mei.bringToFront();
  await mei.keyboard.press('Escape');
  await mei.keyboard.press('e');
  await hand.drag(300, 300, 420, 420);
  await expect(mei.getByText(/could not be delivered/)).toContainText('somebody else has taken this item over');
  expect(count(turn)).toBe(1);
  await mei.getByRole('button', { name: 'let them go' }).click();
  await theirs.clear();
});

test('a session that ended in mid-edit asks to sign in again and loses nothing', async ({ person }) => {
  const aoife = await person('Aoife Duarte');
  const hand = await bench(aoife);
  await hand.clear();
  const turn = turnOf(aoife);
  // ended where the server keeps it: an answer still on its way would bring a cookie back, and with it the session
  sql('demo', "update users set disabled_at = '2026-01-01 00:00:00' where name = 'Aoife Duarte'");
  await hand.drag(100, 100, 220, 220);
  await expect(aoife.getByText('Your session has ended')).toBeVisible();
  sql('demo', "update users set disabled_at = null where name = 'Aoife Duarte'");
  await aoife.getByLabel('e-mail').pressSequentially('aoife@larkmoor.example');
  await aoife.getByLabel('password').pressSequentially('orchard-demo');
  await aoife.getByRole('button', { name: 'Sign in' }).click();
  await hand.saved();
  expect(count(turn)).toBe(1);
  await hand.clear();
});

test('a wrong password and an invitation that does not exist are said plainly', async ({ anyone }) => {
  const page = await anyone('demo');
  await page.getByLabel('e-mail').fill('mei@larkmoor.example');
  await page.getByLabel('password').fill('not this one');
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page.getByRole('alert')).toContainText('do not go together');
  await page.goto(url('demo', '/join/nothing'));
  await expect(page.getByRole('alert')).toContainText('does not exist or has run out');
});
