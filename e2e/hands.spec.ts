import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Locator, Page } from '@playwright/test';
import { artisan, expect, freeAll, member, png, sql, StageHand, test } from './fixtures';
import { folders, url } from './place';

/** What hands do: they press the stage, then type key by key. In no field of bench, sheet or sweep is a letter a command. */
const name = `Typed by hand ${Date.now()}`;
const codebook = {
  skeno: 'codebook/1',
  classes: [
    { key: 'apple', name: 'Apple', shapes: ['box'], shortcut: '1', attributes: ['remark', 'size', 'sound'] },
    { key: 'bud', name: 'Bud', shapes: ['points'], points: 3, point_names: ['tip', 'left', 'right'], shortcut: '2' },
    { key: 'moth', name: 'Moth', shapes: ['skeleton'], skeleton: 'moth', shortcut: '3' },
    { key: 'net', name: 'Net', shapes: ['mask'], shortcut: '4' }
  ],
  attributes: [
    { key: 'remark', name: 'Remark', type: 'text', scope: 'object' },
    { key: 'size', name: 'Size', type: 'number', scope: 'object', min: 0, max: 50, no_value: ['unsure'] },
    { key: 'sound', name: 'Sound', type: 'yesno', scope: 'object' },
    { key: 'note', name: 'Note', type: 'text', scope: 'item' }
  ],
  tags: [{ key: 'wet', name: 'Wet' }],
  skeletons: [
    {
      key: 'moth',
      name: 'Moth',
      nodes: [
        { key: 'head', name: 'Head', x: 0.5, y: 0 },
        { key: 'tail', name: 'Tail', x: 0.5, y: 1 }
      ],
      edges: [['head', 'tail']]
    }
  ]
};
let project = 0;
const folder = join(folders.demo, 'typed-by-hand');
const turnOf = (i: number): { id: number; item_id: number } =>
  JSON.parse(
    sql('demo', `select id, item_id from turns where project_id = ${project} and stage = 'label' and followed = 0 order by item_id`)
  )[i];
const state = (i: number): string => JSON.parse(sql('demo', `select state from items where project_id = ${project} order by id`))[i].state;
const marks = (
  i: number
): { id: string; kind: string; answers: Record<string, { value?: unknown; no_value?: string }>; geometry: never }[] =>
  JSON.parse(
    sql('demo', `select id, kind, answers, geometry from marks where item_id = ${turnOf(i).item_id} and deleted_at is null order by id`)
  ).map((m: Record<string, string>) => ({ ...m, answers: JSON.parse(m.answers!), geometry: JSON.parse(m.geometry!) }));

test.describe.configure({ mode: 'serial' });
test.beforeAll(() => {
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(join(folder, 'pictures'), { recursive: true });
  for (let i = 0; i < 6; i++) writeFileSync(join(folder, 'pictures', `h${i}.png`), png(400, 300, 70 + i));
  writeFileSync(join(folder, 'codebook.json'), JSON.stringify(codebook));
  project = JSON.parse(artisan('skeno:project', name, `--codebook=${join(folder, 'codebook.json')}`, '--json')).project;
  artisan('skeno:import', name, join(folder, 'pictures'), '--json');
  for (const [who, role] of [
    ['Ines Okafor', 'manager'],
    ['Tobias Lindqvist', 'reviewer'],
    ['Mei Castellan', 'labeller']
  ])
    member(project, who!, role!);
});
test.beforeEach(() => void freeAll('demo'));

const at = async (page: Page, i: number): Promise<StageHand> => {
  await page.goto(url('demo', `/p/${project}/bench/${turnOf(i).id}`));
  const hand = new StageHand(page);
  await hand.shown();
  return hand;
};
/** Keys one after the other, wherever the focus is: as a person types. */
const type = (page: Page, text: string) => page.keyboard.type(text);
const holds = (field: Locator, text: string) => expect(field).toHaveValue(text);

test('handed out, so that there is work', async ({ person }) => {
  const ines = await person('Ines Okafor');
  await ines.goto(url('demo', `/p/${project}/hand-out`));
  await ines.getByRole('button', { name: 'to which labellers' }).click();
  await ines.getByLabel(/Mei/).check();
  await ines.getByRole('button', { name: 'which reviewers' }).click();
  await ines.getByLabel(/Tobias/).check();
  await ines.getByRole('button', { name: 'Hand out 6 items' }).click();
  await expect(ines.getByRole('row', { name: /Mei/ })).toContainText('6');
});

test('a labeller types into every field of the bench, and no letter acts', async ({ person }) => {
  test.setTimeout(120_000);
  const mei = await person('Mei Castellan');
  const hand = await at(mei, 0);
  const first = await hand.stage.getAttribute('aria-label');
  await hand.drag(100, 75, 200, 150);
  await hand.saved();

  // a question that is written: the field has the focus as soon as it is open, Enter stores, goes on, and letters are keys again
  await mei.keyboard.press('r');
  await expect(mei.getByRole('textbox', { name: 'Remark' })).toBeFocused();
  await type(mei, 'scab, as seen?');
  await mei.keyboard.press('Enter');
  await expect(mei.getByRole('spinbutton', { name: 'Size' })).toBeVisible();
  await hand.saved();
  expect(marks(0)[0]!.answers.remark).toEqual({ value: 'scab, as seen?' });
  // the slider moves by arrows and does not mute the deck; Enter goes on from it
  await mei.getByLabel('Size by slider').focus();
  for (let i = 0; i < 4; i++) await mei.keyboard.press('ArrowRight');
  await mei.keyboard.press('w');
  await hand.saved();
  expect(marks(0)[0]!.answers.size).toEqual({ value: 5 });
  await mei.getByLabel('Size by slider').focus();
  await mei.keyboard.press('Enter');
  await expect(mei.getByRole('list', { name: 'marks' }).getByRole('group', { name: 'Sound' })).toBeVisible();
  await mei.keyboard.press('q');
  await hand.saved();
  expect(marks(0)[0]!.answers.sound).toEqual({ value: true });

  // with the field left by Esc, the letters are keys; writing is one key away
  await mei.keyboard.press('Escape');
  await hand.pick(hand.marks.first());
  await mei.keyboard.press('r');
  await expect(mei.getByRole('textbox', { name: 'Remark' })).toBeFocused();
  await mei.keyboard.press('Escape');
  await expect(mei.getByRole('textbox', { name: 'Remark' })).toBeVisible();
  await mei.keyboard.press('q');
  await expect(mei.getByRole('textbox', { name: 'Remark' })).toBeFocused();
  await mei.keyboard.press('Escape');
  await mei.keyboard.press('Escape');
  await expect(mei.getByRole('textbox', { name: 'Remark' })).toBeHidden();

  // about the picture
  await mei.keyboard.press('Escape');
  await hand.click(350, 280);
  await mei.keyboard.press('Escape');
  await mei.keyboard.press('r');
  await mei.keyboard.press('q');
  await expect(mei.getByRole('textbox', { name: 'Note' })).toBeFocused();
  await type(mei, 'fog over /Sort 2');
  await mei.keyboard.press('Enter');
  await hand.saved();
  const said = sql('demo', `select json_extract(answers, '$.note.value') as v from layers where item_id = ${turnOf(0).item_id}`);
  expect(JSON.parse(said)[0].v).toBe('fog over /Sort 2');

  // finding a class, an item, a mark: the stage had the focus a moment ago
  await hand.click(380, 20);
  await mei.keyboard.press('Escape');
  await mei.keyboard.press('/');
  await expect(mei.getByLabel('name of the class')).toBeFocused();
  await type(mei, 'moth');
  await holds(mei.getByLabel('name of the class'), 'moth');
  // a press on the stage takes the focus; what is typed goes on into the field all the same
  await hand.stage.focus();
  await type(mei, 's');
  await holds(mei.getByLabel('name of the class'), 'moths');
  await mei.keyboard.press('Backspace');
  await mei.keyboard.press('Enter');
  await expect(mei.getByRole('group', { name: 'classes' }).getByRole('button', { name: 'Moth' })).toHaveAttribute('aria-pressed', 'true');
  await hand.click(380, 20);
  await mei.keyboard.press('Escape');
  await mei.keyboard.press('End');
  await type(mei, 'h3.png');
  await holds(mei.getByLabel('number or name'), 'h3.png');
  await mei.keyboard.press('Escape');
  await mei.getByLabel('filter marks').click();
  await type(mei, 'as seen');
  await holds(mei.getByLabel('filter marks'), 'as seen');
  await expect(hand.marks).toHaveCount(1);
  await mei.keyboard.press('Escape');

  // asking and parking: the text survives a reload while it is written, and Esc
  await hand.click(380, 20);
  await mei.keyboard.press('Escape');
  await mei.keyboard.press('r');
  await mei.keyboard.press('t');
  await type(mei, 'is a stem a part');
  await mei.reload();
  await hand.shown();
  const ask = mei.getByLabel(/Ask about/);
  await expect(ask).toBeFocused();
  await type(mei, ' of it?');
  await holds(ask, 'is a stem a part of it?');
  await mei.getByRole('button', { name: 'Ask', exact: true }).click();
  await expect(mei.getByRole('region', { name: 'questions' })).toContainText('is a stem a part of it? (no answer yet)');

  // the handbook beside the picture: searched and proposed to
  await mei.getByRole('button', { name: 'Handbook' }).click();
  await expect(async () => {
    // (it is there once its words are)
    const book = (await mei.getByRole('complementary', { name: 'handbook' }).boundingBox())!;
    const picture = (await hand.stage.boundingBox())!;
    expect(picture.x + picture.width).toBeLessThanOrEqual(book.x + 1);
  }).toPass();
  await mei.getByLabel('what you propose').click();
  await type(mei, 'a rule, spelt as such');
  await holds(mei.getByLabel('what you propose'), 'a rule, spelt as such');

  // through all of this nothing was submitted, left or removed
  await expect(hand.stage).toHaveAttribute('aria-label', first!);
  expect([state(0), marks(0).length]).toEqual(['open', 1]);
});

test('Enter finishes and never submits; points and nodes by keys; half an outline survives a reload', async ({ person }) => {
  test.setTimeout(90_000);
  const mei = await person('Mei Castellan');
  const hand = await at(mei, 0);
  // points finish by themselves; who presses Enter by habit has submitted nothing
  await mei.keyboard.press('2');
  await mei.keyboard.press('e');
  for (const x of [40, 60, 80]) await hand.click(x, 40);
  await expect(hand.marks).toHaveCount(2);
  for (let i = 0; i < 3; i++) await mei.keyboard.press('Enter');
  await hand.saved();
  expect(state(0)).toBe('open');
  // one of them taken away by its name, and set again
  await hand.pick(hand.marks.nth(1));
  await mei.getByRole('button', { name: 'point left' }).click();
  await mei.keyboard.press('Delete');
  await expect(mei.getByText('1 more point asked')).toBeVisible();
  await mei.keyboard.press('e');
  await hand.click(70, 60);
  await hand.saved();
  await expect(hand.marks).toHaveCount(2);
  expect((marks(0)[1]!.geometry as { points: number[] }).points).toHaveLength(6);

  // a node is hidden and absent by keys
  await mei.keyboard.press('Escape');
  await mei.keyboard.press('3');
  await mei.keyboard.press('e');
  await hand.click(300, 50);
  await hand.click(300, 120);
  await expect(hand.marks).toHaveCount(3);
  await mei.keyboard.press('q');
  await mei.keyboard.press('b');
  await mei.keyboard.press('a');
  await hand.saved();
  const nodes = mei.getByRole('group', { name: 'nodes' });
  await expect(nodes.getByRole('button', { name: 'Head, hidden' })).toBeVisible();
  await mei.keyboard.press('b');
  await mei.keyboard.press('d');
  await expect(nodes.getByRole('button', { name: 'Tail, absent' })).toBeVisible();

  // a lock survives a reload
  await mei.keyboard.press('f');
  await mei.keyboard.press('e');
  await hand.saved();
  await mei.reload();
  await hand.shown();
  await hand.pick(hand.marks.nth(2));
  await expect(mei.getByText('locked', { exact: false }).first()).toBeVisible();
  await mei.keyboard.press('f');
  await mei.keyboard.press('e');

  // in masks and on pages of the deck the keys of back, on and submit stay where they are
  const deck = mei.getByRole('toolbar', { name: 'deck' });
  const caps = () => deck.getByRole('button', { name: /^[SCV] ?(submit|back|on)$/ }).count();
  expect(await caps()).toBe(3);
  await mei.keyboard.press('f');
  expect(await caps()).toBe(3);
  await mei.keyboard.press('x');
  expect(await caps()).toBe(3);
  await mei.keyboard.press('Escape');
  await mei.keyboard.press('Escape');
  await mei.keyboard.press('4');
  await mei.keyboard.press('e');
  expect(await caps()).toBe(3);
  await mei.keyboard.press('b');
  expect(await caps()).toBe(3);
  // coverage in pixels and per cent
  await mei.keyboard.press('w');
  await expect(mei.getByRole('status', { name: 'coverage' })).toContainText('120,000 px left (100 %)');
  await mei.keyboard.press('w');
  await mei.keyboard.press('Escape');

  // Tab leaves the stage, and a focused control has Enter and Space to itself
  await hand.click(380, 280);
  await mei.keyboard.press('Control+z');
  await hand.stage.focus();
  await mei.keyboard.press('Tab');
  await expect(hand.stage).not.toBeFocused();
  await mei.getByRole('button', { name: 'key map' }).focus();
  await mei.keyboard.press('Enter');
  const map = mei.getByRole('dialog', { name: 'key map' });
  await expect(map).toBeVisible();
  await expect(map.getByRole('button', { name: 'Close' })).toBeFocused();
  await mei.keyboard.press('s');
  expect(state(0)).toBe('open');
  await mei.keyboard.press('Escape');
  await expect(map).toBeHidden();
  await expect(mei.getByRole('button', { name: 'key map' })).toBeFocused();
  // the marks are walked by a key of their own
  await mei.keyboard.press('Escape');
  await mei.keyboard.press('PageDown');
  await expect(hand.marks.first().getByRole('button').first()).toHaveAttribute('aria-expanded', 'true');

  await mei.keyboard.press('Escape');
  await hand.ready();
  await mei.keyboard.press('s');
  await expect.poll(() => state(0)).toBe('submitted');
});

test('submit goes on from here, and the address follows, back to the first too', async ({ person }) => {
  const mei = await person('Mei Castellan');
  const hand = await at(mei, 1);
  const address = new URL(mei.url()).pathname;
  // the second is skipped by going on
  await mei.keyboard.press('v');
  await expect(mei.locator('.crumbs')).toContainText('h2.png');
  expect(new URL(mei.url()).pathname).not.toBe(address);
  await hand.shown();
  await hand.drag(50, 50, 120, 120);
  await hand.saved();
  await mei.keyboard.press('Escape');
  await mei.keyboard.press('Escape');
  await hand.ready();
  await mei.keyboard.press('s');
  await expect(mei.locator('.crumbs')).toContainText('h3.png');
  await mei.keyboard.press('c');
  await mei.keyboard.press('c');
  await expect(mei.locator('.crumbs')).toContainText('h1.png');
  expect(new URL(mei.url()).pathname).toBe(address);
});

test('a reviewer types a pin and a reason, and sees what changed since the return', async ({ person }) => {
  test.setTimeout(90_000);
  const tobias = await person('Tobias Lindqvist');
  await tobias
    .getByRole('region', { name: `in ${name}` })
    .getByRole('button', { name: 'Review' })
    .click();
  const check = new StageHand(tobias);
  await check.ready();
  await expect(tobias.locator('.crumbs')).toContainText('h0.png');
  await tobias.keyboard.press('f');
  await check.click(150, 110);
  await expect(tobias.getByLabel(/what is wrong here/)).toBeFocused();
  // every letter of it is an act of the deck elsewhere: accept, return, remove, doubt
  await type(tobias, 'arm is too low, seen from far?');
  await tobias.reload();
  await check.shown();
  await holds(tobias.getByLabel(/what is wrong here/), 'arm is too low, seen from far?');
  await tobias.keyboard.press('Enter');
  await expect(tobias.getByRole('region', { name: 'what was said' })).toContainText('arm is too low, seen from far?');
  expect(state(0)).toBe('submitted');
  // a reason that can not be sent is not lost
  await tobias.keyboard.press('g');
  await type(tobias, 'as the pin says');
  await tobias.context().setOffline(true);
  await tobias.getByRole('button', { name: 'Return', exact: true }).click();
  await expect(tobias.getByRole('alert').first()).toBeVisible();
  await holds(tobias.getByLabel(/what should be done/), 'as the pin says');
  await tobias.context().setOffline(false);
  await check.ready();
  await tobias.getByRole('button', { name: 'Return', exact: true }).click();
  await expect.poll(() => state(0)).toBe('returned');

  const mei = await person('Mei Castellan');
  const hand = await at(mei, 0);
  await hand.pick(hand.marks.first());
  await mei.keyboard.press('Shift+ArrowDown');
  await mei.keyboard.press('Escape');
  await mei.keyboard.press('1');
  await mei.keyboard.press('e');
  await hand.drag(220, 200, 280, 260);
  await hand.saved();
  for (let i = 0; i < 3; i++) await mei.keyboard.press('Escape');
  await hand.ready();
  await mei.keyboard.press('s');
  await expect.poll(() => state(0)).toBe('submitted');

  await tobias.goto(url('demo', '/'));
  await tobias
    .getByRole('region', { name: `in ${name}` })
    .getByRole('button', { name: 'Review' })
    .click();
  await check.shown();
  // what was begun meanwhile is still open; the fixed one waits beside it
  await tobias
    .getByRole('navigation', { name: 'queue' })
    .getByRole('button', { name: /^h0.png/ })
    .click();
  await expect(tobias.locator('.crumbs')).toContainText('h0.png');
  const since = tobias.getByRole('region', { name: 'since it was returned' });
  await expect(since).toContainText('1 changed, 1 new, 0 gone');
  const before = tobias.getByRole('toolbar', { name: 'deck' }).getByRole('button', { name: 'before' });
  await expect(before).toHaveAttribute('aria-pressed', 'true');
  await tobias.keyboard.press('x');
  await expect(before).toHaveAttribute('aria-pressed', 'false');
});

test('a bench that is loaded again without a network is the bench, and what is done there arrives', async ({ person }) => {
  const mei = await person('Mei Castellan');
  const hand = await at(mei, 3);
  await mei.waitForFunction(async () => {
    const names = await caches.keys();
    const cache = names[0] ? await caches.open(names[0]) : null;
    return navigator.serviceWorker.controller !== null && ((await cache?.keys())?.length ?? 0) > 10;
  });
  await mei.context().setOffline(true);
  await mei.reload();
  await expect(mei.getByRole('status', { name: 'saved state' })).toBeVisible();
  await expect(mei.getByRole('alert').first()).toContainText('as it was last shown here');
  await hand.shown();
  await hand.drag(60, 60, 160, 140);
  await expect(mei.getByRole('status', { name: 'saved state' })).toContainText('offline, 1 waiting');
  await mei.context().setOffline(false);
  await hand.saved();
  expect(marks(3)).toHaveLength(1);
});

test('what was not taken stops a submit until it is settled', async ({ person }) => {
  const mei = await person('Mei Castellan');
  const hand = await at(mei, 3);
  const second = await mei.context().newPage();
  await second.goto(mei.url());
  const two = new StageHand(second);
  await two.shown();
  await two.pick(two.marks.first());
  await second.keyboard.press('Shift+ArrowRight');
  await two.saved();
  await mei.bringToFront();
  await hand.pick(hand.marks.first());
  await mei.keyboard.press('Shift+ArrowDown');
  await expect(mei.getByText('was changed elsewhere meanwhile')).toBeVisible();
  // an undo can not write over what the other did
  const there = await hand.numbers(hand.marks.first());
  await mei.keyboard.press('Control+z');
  expect(await hand.numbers(hand.marks.first())).toEqual(there);
  await mei.keyboard.press('Escape');
  await mei.keyboard.press('Escape');
  await hand.ready();
  await mei.keyboard.press('s');
  await expect(mei.getByText('one change of this item was not taken: settle it first')).toBeVisible();
  expect(state(3)).toBe('open');
  await mei.getByRole('button', { name: 'keep the other' }).click();
  await hand.ready();
  await mei.keyboard.press('s');
  await expect.poll(() => state(3)).toBe('submitted');
  await second.close();
});

test('on the sheet and in a sweep what is typed is text too', async ({ person }) => {
  test.setTimeout(90_000);
  const ines = await person('Ines Okafor');
  await ines.goto(url('demo', `/p/${project}/sheet?class=apple&sort=item`));
  const objects = ines.getByRole('listbox', { name: 'objects' });
  const first = objects.getByRole('option').first();
  await expect(first).toContainText(/Apple on h0.png/);
  await expect(ines.getByRole('status', { name: 'oddness' })).toBeHidden();
  await first.click();
  await ines.keyboard.press('r');
  await expect(ines.getByRole('textbox', { name: 'Remark' })).toBeFocused();
  await type(ines, 'dagger, as before');
  await ines.keyboard.press('Enter');
  await expect.poll(() => marks(0)[0]!.answers.remark?.value).toContain('dagger, as before');
  await first.click();
  await ines.keyboard.press('/');
  await type(ines, 'add');
  await holds(ines.getByLabel('name of the class'), 'add');
  await ines.keyboard.press('Escape');
  // too few examples: it is said from how many on
  await ines.goto(url('demo', `/p/${project}/sheet?class=apple`));
  await expect(ines.getByRole('status', { name: 'oddness' })).toContainText('oddness is known from 20 examples on');

  await ines.goto(url('demo', `/p/${project}/sweep?ask=q:remark&class=apple&answer=`));
  await ines.getByRole('button', { name: 'Begin' }).click();
  const field = ines.getByRole('textbox', { name: 'Remark' });
  await expect(field).toBeFocused();
  await ines.getByRole('img', { name: /^Apple on/ }).click();
  await ines.keyboard.press('Control+a');
  await type(ines, 'vexed by a fly');
  await ines.keyboard.press('Enter');
  await expect(ines.getByRole('status', { name: 'progress' })).toContainText('1 of');
  await expect.poll(() => marks(0)[0]!.answers.remark?.value).toContain('vexed by a fly');
  // left by Esc, the letters are keys: on, and back
  await ines.keyboard.press('Escape');
  await ines.keyboard.press('v');
  await expect(ines.getByRole('status', { name: 'progress' })).toContainText('2 of');

  // a single tag, put on or left off by a key each
  await ines.goto(url('demo', `/p/${project}/sweep?ask=t:wet`));
  await expect(ines.getByRole('status', { name: 'how many' })).toContainText('6 pictures');
  await ines.getByRole('button', { name: 'Begin' }).click();
  await expect(ines.getByRole('status', { name: 'progress' })).toContainText('of 6');
  for (let i = 0; i < 6; i++) await ines.keyboard.press(i % 3 === 0 ? 'q' : 'w');
  await expect(ines.getByRole('status', { name: 'what was done' })).toContainText('2 tags');
  await expect
    .poll(() => sql('demo', `select count(*) as n from layers where project_id = ${project} and kind = 'agreed' and tags like '%wet%'`))
    .toContain('"n":2');
  // a look says what it did
  await ines.goto(url('demo', `/p/${project}/sweep?ask=look`));
  await ines.getByRole('button', { name: 'Begin' }).click();
  const total = Number((await ines.getByRole('status', { name: 'progress' }).textContent())!.match(/of\s+(\d+)/)![1]);
  for (let i = 0; i < total; i++) await ines.keyboard.press('ArrowRight');
  await expect(ines.getByRole('status', { name: 'what was done' })).toContainText(`${total} looked at, nothing changed`);
});

test('what lies three times on the same spot is doubted twice, and its row says so twice', async ({ person }) => {
  const mei = await person('Mei Castellan');
  const hand = await at(mei, 5);
  await hand.clear();
  for (let n = 1; n <= 3; n++) {
    await mei.keyboard.press('Escape');
    await mei.keyboard.press('e');
    await hand.drag(60, 60, 140, 120);
    await expect(hand.marks).toHaveCount(n);
  }
  await hand.saved();
  await hand.pick(hand.marks.last());
  await expect(hand.marks.last().getByText(/nearly coincide/)).toHaveCount(2);
  await hand.clear();
});
