import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { artisan, expect, freeAll, member, png, sql, StageHand, test } from './fixtures';
import { folders, url } from './place';

/** People who come, leave and are locked out, and work that is looked at twice: a project of its own, with three pictures. */
const name = `Row ends ${Date.now()}`;
const folder = join(folders.demo, 'row-ends');
let project = 0;

test.describe.configure({ mode: 'serial' });
test.beforeAll(() => {
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(folder, { recursive: true });
  for (let i = 0; i < 3; i++) writeFileSync(join(folder, `r${i}.png`), png(400, 300, 120 + i));
  artisan('skeno:project', name, '--template=count-fruit', '--json');
  artisan('skeno:import', name, folder, '--json');
  project = JSON.parse(sql('demo', `select id from projects where name = '${name}'`))[0].id;
  for (const [who, role] of [
    ['Ines Okafor', 'manager'],
    ['Tobias Lindqvist', 'reviewer'],
    ['Mei Castellan', 'labeller']
  ])
    member(project, who!, role!);
});
test.beforeEach(() => void freeAll('demo'));

const to = (page: Page, path: string) => page.goto(url('demo', `/p/${project}/${path}`));
const agreed = (): number =>
  JSON.parse(sql('demo', `select sum(marks) as n from mark_counts where project_id = ${project} and state = 'accepted'`))[0].n ?? 0;
const work = async (page: Page, button: string): Promise<StageHand> => {
  await page.goto(url('demo'));
  await page
    .getByRole('region', { name: `in ${name}` })
    .getByRole('button', { name: button })
    .click();
  const hand = new StageHand(page);
  await hand.shown();
  return hand;
};

test('somebody of the installation is added from a list, and handed work', async ({ person }) => {
  const ines = await person('Ines Okafor');
  await to(ines, 'people');
  await ines.getByLabel('somebody who has an account here').selectOption('Ravi Sørby');
  await ines.getByRole('button', { name: 'Add', exact: true }).click();
  await expect(ines.getByRole('row', { name: /Ravi Sørby/ })).toContainText('ravi@larkmoor.example');
  await to(ines, 'hand-out');
  await ines.getByRole('button', { name: 'to which labellers' }).click();
  await ines.getByLabel(/Mei/).check();
  await ines.getByRole('button', { name: 'which reviewers' }).click();
  await ines.getByLabel(/Tobias/).check();
  await ines.getByRole('button', { name: 'Hand out 3 items' }).click();
  await expect(ines.getByRole('row', { name: /Mei/ })).toContainText('3');

  const mei = await person('Mei Castellan');
  const hand = await work(mei, 'Continue');
  await hand.drag(100, 75, 200, 150);
  await hand.saved();
  // whatever the template asks is answered by its first key, until nothing is left to do
  for (let n = 0; n < 6 && (await mei.getByRole('status', { name: 'still to do' }).textContent())?.includes('to do'); n++) {
    await mei.keyboard.press('q');
    await hand.saved();
  }
  await hand.ready();
  await mei.keyboard.press('Escape');
  await mei.getByRole('button', { name: 'Submit', exact: true }).click();
  await expect.poll(() => sql('demo', `select state from turns where project_id = ${project} and stage = 'review'`)).toContain('waiting');
});

test('who has a review open is named, and a manager frees it; an accept can be taken back', async ({ person }) => {
  const tobias = await person('Tobias Lindqvist');
  const check = await work(tobias, 'Review');
  const ines = await person('Ines Okafor');
  await to(ines, 'check');
  await expect(ines.getByRole('row', { name: /r\d\.png/ })).toContainText('open with Tobias Lindqvist');
  await ines.getByRole('button', { name: 'free it' }).click();
  await expect(ines.getByRole('link', { name: 'Open' })).toBeVisible();
  // coming from a list one only looks: the review stays free
  await to(ines, 'items?f=state%3Asubmitted');
  await ines
    .getByRole('table')
    .getByRole('button', { name: /^r\d\.png$/ })
    .click();
  await ines.getByRole('link', { name: 'On the bench' }).click();
  await expect(ines.getByText('only to look at')).toBeVisible();
  expect(JSON.parse(sql('demo', `select state from turns where project_id = ${project} and stage = 'review'`))).toEqual([
    { state: 'waiting' }
  ]);

  await check.ready();
  await tobias.keyboard.press('s');
  await expect(tobias.getByRole('dialog', { name: 'all done' })).toBeVisible();
  expect(agreed()).toBe(1);
  await tobias.getByRole('button', { name: /Take the last .* back/ }).click();
  await check.ready();
  expect(agreed()).toBe(0);
  await tobias.getByRole('banner').getByRole('button', { name: 'Accept' }).click();
  await expect(tobias.getByRole('dialog', { name: 'all done' })).toBeVisible();
  expect(agreed()).toBe(1);
});

test('accepted labels handed out again stay as they are until the new work is accepted', async ({ person }) => {
  const ines = await person('Ines Okafor');
  await to(ines, 'hand-out');
  await ines.getByRole('button', { name: 'from which pool' }).click();
  await ines.getByLabel('any item, also a second time').check();
  await ines.getByRole('button', { name: 'to which labellers' }).click();
  await ines.getByLabel(/Ravi/).check();
  const give = ines.getByRole('button', { name: 'Hand out 3 items' });
  await expect(ines.getByText('say how the new pass works')).toBeVisible();
  await expect(give).toBeDisabled();
  await ines.getByLabel('works on top of the accepted labels').check();
  await give.click();
  await expect(ines.getByRole('row', { name: /Ravi/ })).toContainText('3');
  expect(agreed()).toBe(1);

  const ravi = await person('Ravi Sørby');
  const turn = JSON.parse(sql('demo', `select id from turns where project_id = ${project} and beside = 1`))[0].id;
  await to(ravi, `bench/${turn}`);
  const hand = new StageHand(ravi);
  await hand.shown();
  await expect(hand.marks).toHaveCount(1);
  await hand.drag(250, 200, 330, 260);
  await hand.saved();
  await expect(hand.marks).toHaveCount(2);
  await ravi.reload();
  await hand.shown();
  await expect(hand.marks).toHaveCount(2);
  expect(agreed()).toBe(1);
});

test('who leaves passes on what they hold', async ({ person }) => {
  // what was held before this test has run out; what Ravi has open now is theirs until they leave
  const ravi = await person('Ravi Sørby');
  const held = JSON.parse(sql('demo', `select id from turns where project_id = ${project} and beside = 1`))[0].id;
  await to(ravi, `bench/${held}`);
  await new StageHand(ravi).shown();
  const ines = await person('Ines Okafor');
  await to(ines, 'people');
  await ines
    .getByRole('row', { name: /Ravi Sørby/ })
    .getByRole('button', { name: 'remove' })
    .click();
  await ines.getByLabel(/What Ravi Sørby holds/).selectOption('to Mei Castellan');
  await ines.getByRole('button', { name: 'Remove Ravi Sørby' }).click();
  await expect(ines.getByRole('status').filter({ hasText: 'Ravi Sørby has left' })).toContainText('1 item went to Mei Castellan');
  await expect(ines.getByRole('row', { name: /Ravi Sørby/ })).toHaveCount(0);
  const mei = await person('Mei Castellan');
  await to(mei, `bench/${held}`);
  const hand = new StageHand(mei);
  await hand.shown();
  await expect(hand.marks).toHaveCount(2);
});

test('a new password is set by a link, once; an account that is disabled is let out and not in', async ({ person, anyone }) => {
  const ines = await person('Ines Okafor');
  await ines.goto(url('demo', '/users'));
  const row = ines.getByRole('row', { name: /Ravi Sørby/ });
  await row.getByRole('button', { name: 'new password' }).click();
  const link = await ines.getByLabel('link for a new password').inputValue();

  const ravi = await anyone('demo');
  await ravi.goto(link);
  await expect(ravi.getByText('For the account of Ravi Sørby')).toBeVisible();
  await ravi.getByLabel(/new password/).pressSequentially('short');
  await ravi.getByRole('button', { name: 'Set it and sign in' }).click();
  await expect(ravi.getByRole('heading', { name: 'A new password' })).toBeVisible();
  await ravi.getByLabel(/new password/).press('Control+a');
  await ravi.getByLabel(/new password/).pressSequentially('an orchard of words');
  await ravi.getByRole('button', { name: 'Set it and sign in' }).click();
  await expect(ravi.getByRole('heading', { name: 'Hello, Ravi' })).toBeVisible();

  const late = await anyone('demo');
  await late.goto(link);
  await expect(late.getByRole('alert')).toContainText('this link has been used');
  await late.goto(url('demo', '/sign-in'));
  const signIn = async (password: string) => {
    for (const [field, text] of [
      ['e-mail', 'ravi@larkmoor.example'],
      ['password', password]
    ] as const) {
      await late.getByLabel(field).press('Control+a');
      await late.getByLabel(field).pressSequentially(text);
    }
    await late.getByRole('button', { name: 'Sign in' }).click();
  };
  await signIn('orchard-demo');
  await expect(late.getByRole('alert')).toContainText('do not go together');

  await ines.getByRole('checkbox', { name: 'Ravi Sørby may sign in' }).uncheck({ force: true });
  await expect.poll(() => sql('demo', "select disabled_at is not null as off from users where name = 'Ravi Sørby'")).toContain('1');
  await signIn('an orchard of words');
  await expect(late.getByRole('alert')).toContainText('this account is disabled');
  await ravi.reload();
  await expect(ravi.getByRole('button', { name: 'Sign in' })).toBeVisible();
  await ines.getByRole('checkbox', { name: 'Ravi Sørby may sign in' }).check({ force: true });
  await expect.poll(() => sql('demo', "select disabled_at is null as on_ from users where name = 'Ravi Sørby'")).toContain('1');
  await signIn('an orchard of words');
  await expect(late.getByRole('heading', { name: 'Hello, Ravi' })).toBeVisible();
});
