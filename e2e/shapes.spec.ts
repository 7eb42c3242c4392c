import { execFileSync } from 'node:child_process';
import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { artisan, expect, freeAll, member, png, sql, StageHand, test } from './fixtures';
import { folders, url } from './place';

/** A project in which every shape has a class and a digit of its own, with three pictures, handed to Mei. */
const codebook = {
  skeno: 'codebook/1',
  classes: [
    { key: 'crate', name: 'Crate', shapes: ['box', 'mask'], shortcut: '1' },
    { key: 'trunk', name: 'Trunk', shapes: ['turned_box'], shortcut: '2' },
    { key: 'leaf', name: 'Leaf', shapes: ['polygon', 'mask'], shortcut: '3', part_of: ['branch'] },
    { key: 'branch', name: 'Branch', shapes: ['polyline'], shortcut: '4' },
    { key: 'apple', name: 'Apple', shapes: ['ellipse'], shortcut: '5' },
    { key: 'bud', name: 'Bud', shapes: ['points'], points: 3, shortcut: '6' },
    { key: 'moth', name: 'Moth', shapes: ['skeleton'], skeleton: 'moth', shortcut: '7' },
    { key: 'net', name: 'Net', shapes: ['mask'], shortcut: '8' },
    { key: 'bin', name: 'Bin', shapes: ['cuboid_2d'], shortcut: '9' }
  ],
  skeletons: [
    {
      key: 'moth',
      name: 'Moth',
      nodes: [
        { key: 'head', name: 'Head', x: 0.5, y: 0 },
        { key: 'tail', name: 'Tail', x: 0.5, y: 1 },
        { key: 'left', name: 'Left wing', x: 0, y: 0.5, twin: 'right' },
        { key: 'right', name: 'Right wing', x: 1, y: 0.5, twin: 'left' }
      ],
      edges: [
        ['head', 'tail'],
        ['head', 'left'],
        ['head', 'right']
      ]
    }
  ]
};
// a worker that begins anew after a failure makes a project of its own
const name = `Every shape ${Date.now()}`;
let project = 0;

test.beforeAll(async () => {
  const folder = join(folders.demo, 'every-shape');
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(join(folder, 'pictures'), { recursive: true });
  for (let i = 0; i < 3; i++) writeFileSync(join(folder, 'pictures', `p${i}.png`), png(400, 300, 40 + i));
  writeFileSync(join(folder, 'codebook.json'), JSON.stringify(codebook));
  project = JSON.parse(artisan('skeno:project', name, `--codebook=${join(folder, 'codebook.json')}`, '--json')).project;
  artisan('skeno:import', name, join(folder, 'pictures'), '--json');
  member(project, 'Ines Okafor', 'manager');
  member(project, 'Mei Castellan', 'labeller');
});
test.beforeEach(() => void freeAll('demo'));

/** Hands all pictures to Mei once, and opens the next of them. */
async function open(person: (name: string) => Promise<Page>): Promise<{ mei: Page; hand: StageHand; item: number }> {
  if (JSON.parse(sql('demo', `select count(*) as n from assignments where project_id = ${project}`))[0].n === 0) {
    const ines = await person('Ines Okafor');
    await ines.goto(url('demo', `/p/${project}/hand-out`));
    await ines.getByRole('button', { name: 'to which labellers' }).click();
    await ines.getByRole('checkbox', { name: /Mei Castellan/ }).check();
    await ines.getByRole('button', { name: 'Hand out' }).click();
    await expect(ines.getByText(/3 items/).first()).toBeVisible();
  }
  const mei = await person('Mei Castellan');
  const turn = JSON.parse(
    sql(
      'demo',
      `select id, item_id from turns where project_id = ${project} and stage = 'label' and state in ('waiting', 'open') order by id limit 1`
    )
  )[0];
  await mei.goto(url('demo', `/p/${project}/bench/${turn.id}`));
  const hand = new StageHand(mei);
  await hand.shown();
  return { mei, hand, item: turn.item_id };
}
type Stored = {
  class: string;
  kind: string;
  geometry: Record<string, never>;
  part_of: string | null;
  flags: string[];
  stack: number | null;
};
const stored = (item: number): Stored[] =>
  JSON.parse(
    sql('demo', `select class, kind, geometry, part_of, flags, stack from marks where item_id = ${item} and deleted_at is null order by id`)
  ).map((m: Record<string, string>) => ({ ...m, geometry: JSON.parse(m.geometry!), flags: JSON.parse(m.flags!) }));
const near = (given: number[], wanted: number[], within = 1.5) => {
  expect(given.length).toBe(wanted.length);
  given.forEach((n, i) => expect(Math.abs(n - wanted[i]!), `${given.join(', ')} beside ${wanted.join(', ')}`).toBeLessThan(within));
};
/** Pixels of a mask as it is kept, by the core. */
const pixels = (mask: unknown): number =>
  Number(
    execFileSync('php', [
      '-r',
      'require "vendor/autoload.php"; echo Skeno\\Core\\Raster\\Mask::fromFields(Skeno\\Core\\Fields::of(json_decode($argv[1], true)))->area();',
      JSON.stringify(mask)
    ]).toString()
  );

test('every shape is drawn by mouse and keys, kept exactly, and leaves in files', async ({ person }) => {
  test.setTimeout(150_000);
  const { mei, hand, item } = await open(person);
  const key = (...keys: string[]) => keys.reduce((before, k) => before.then(() => mei.keyboard.press(k)), Promise.resolve());
  const click = async (...points: [number, number][]) => {
    for (const [x, y] of points) await hand.click(x, y);
  };
  const tag = mei.locator('.tag');

  // a turned box by three points, then turned on by its handle
  await key('2', 'e');
  await hand.drag(40, 40, 120, 40);
  await expect(tag).toHaveText('depth');
  await click([120, 80]);
  await expect(hand.marks).toHaveCount(1);
  await hand.saved();
  const turned = stored(item)[0]!.geometry as unknown as Record<string, number>;
  near([turned.cx!, turned.cy!, turned.width!, turned.height!, turned.angle!], [80, 60, 80, 40, 0]);
  await key('q');
  const up = await hand.at(80, 40);
  await mei.mouse.move(up.x, up.y - 26);
  await mei.mouse.down();
  const side = await hand.at(160, 60);
  await mei.mouse.move(side.x, side.y, { steps: 4 });
  await mei.mouse.up();
  await hand.saved();
  near([(stored(item)[0]!.geometry as unknown as Record<string, number>).angle!], [90], 2);

  // an outline point by point: one taken back, closed on its first point; a neighbour that shares its edge exactly
  await key('Escape', '3', 'e');
  await click([150, 100], [220, 100], [230, 60]);
  await key('d');
  await click([220, 170], [150, 170], [151, 101]);
  await expect(hand.marks).toHaveCount(2);
  await key('Escape');
  const corner = await hand.at(221, 101);
  await mei.mouse.move(corner.x, corner.y);
  await expect(tag).toHaveText('same point');
  await click([221, 101]);
  await click([220, 170]);
  await click([280, 170], [280, 100]);
  await key('Enter');
  await hand.saved();
  const [, first, second] = stored(item).map((m) => (m.geometry as unknown as { rings: number[][] }).rings);
  near(first![0]!, [150, 100, 220, 100, 220, 170, 150, 170]);
  expect(second![0]!.slice(0, 4)).toEqual(first![0]!.slice(2, 6));

  // a crossing outline is not finished and not lost
  await key('Escape');
  await click([300, 30], [340, 60], [340, 30], [300, 60]);
  await key('Enter');
  await expect(mei.getByRole('alert')).toContainText('crosses itself');
  await key('Escape');
  await expect(hand.marks).toHaveCount(3);

  // cut a hole, by the mark's page of the deck
  await key('q');
  await click([185, 135]);
  await key('f', 'd');
  await expect(tag).toHaveText('cut');
  await click([170, 120], [200, 120], [200, 150], [170, 150]);
  await key('Enter');
  await hand.saved();
  expect((stored(item)[1]!.geometry as unknown as { rings: number[][] }).rings).toHaveLength(2);
  // a point is pulled in the middle of an edge, then removed
  await key('q');
  await hand.drag(150, 135, 140, 135);
  await hand.saved();
  expect((stored(item)[1]!.geometry as unknown as { rings: number[][] }).rings.flat()).toHaveLength(18);
  await click([140, 135]);
  await key('d');
  await hand.saved();
  expect((stored(item)[1]!.geometry as unknown as { rings: number[][] }).rings.flat()).toHaveLength(16);

  // a line laid along the pointer; an ellipse; points done by themselves; a cuboid
  await key('Escape', 'Escape', '4', 'e');
  const from = await hand.at(20, 200);
  await mei.mouse.move(from.x, from.y);
  await mei.mouse.down();
  for (const [x, y] of [
    [60, 205],
    [100, 230],
    [140, 232]
  ]) {
    const p = await hand.at(x!, y!);
    await mei.mouse.move(p.x, p.y, { steps: 8 });
  }
  await mei.mouse.up();
  await key('Enter', 'Escape', '5', 'e');
  await hand.drag(250, 200, 290, 220);
  await key('Escape', '6', 'e');
  await click([310, 200], [320, 210], [330, 200]);
  await key('Escape', '9', 'e');
  await hand.drag(20, 240, 80, 290);
  await click([110, 250]);
  await key('Escape');
  await expect(hand.marks).toHaveCount(7);

  // a skeleton by two presses; one node hidden, one absent; mirrored, left stays left
  await key('7', 'e');
  await click([350, 100]);
  await click([350, 180]);
  await expect(hand.marks).toHaveCount(8);
  const nodes = mei.getByRole('group', { name: 'nodes' });
  await nodes.getByRole('button', { name: /^Left wing/ }).click();
  await expect(nodes.getByRole('button', { name: 'Left wing, hidden' })).toBeVisible();
  for (let i = 0; i < 2; i++) await nodes.getByRole('button', { name: /^Tail/ }).click();
  await expect(nodes.getByRole('button', { name: 'Tail, absent' })).toBeVisible();
  await key('q', 'f', 't', 'Escape');
  await hand.saved();

  // masks: a stroke, an erased end, an outline cut away; the branch it is a part of does not concern it
  await key('Escape', '8', 'e');
  await hand.drag(200, 260, 260, 260);
  await key('d');
  await expect(tag).toHaveText('erase');
  await hand.drag(258, 260, 262, 260);
  // add an outline, again: cut one
  await key('f', 'f');
  await click([200, 255], [210, 255], [210, 265], [200, 265]);
  await key('Enter', 'Enter', 'a');
  await hand.saved();

  const kept = stored(item);
  expect(kept.map((m) => m.kind)).toEqual([
    'turned_box',
    'polygon',
    'polygon',
    'polyline',
    'ellipse',
    'points',
    'cuboid_2d',
    'skeleton',
    'mask'
  ]);
  const line = (kept[3]!.geometry as unknown as { points: number[] }).points;
  near([...line.slice(0, 2), ...line.slice(-2)], [20, 200, 140, 232], 3);
  expect(line.length).toBeLessThan(30);
  near(Object.values(kept[4]!.geometry).map(Number), [270, 210, 20, 10, 0]);
  near((kept[5]!.geometry as unknown as { points: number[] }).points, [310, 200, 320, 210, 330, 200]);
  const faces = kept[6]!.geometry as unknown as Record<string, Record<string, number>>;
  near([faces.front!.x!, faces.front!.width!, faces.back!.x!, faces.back!.width!], [20, 60, 86, 48]);
  const pose = (kept[7]!.geometry as unknown as { nodes: Record<string, { x: number; y: number; state: string }> }).nodes;
  expect(Object.keys(pose).sort()).toEqual(['head', 'left', 'right']);
  // it stood head up, left wing on the left of the screen and hidden; mirrored, the place is the right one's
  expect([pose.left!.state, pose.right!.state]).toEqual(['visible', 'hidden']);
  expect(pose.left!.x).toBeLessThan(pose.right!.x);
  const painted = pixels(kept[8]!.geometry);
  // a stroke of 24 px over 60 px, less a disc at its end and a piece of 10 × 10
  expect(painted).toBeGreaterThan(1000);
  expect(painted).toBeLessThan(60 * 24 + 460 - 100);

  // the page reloaded: all there, and the last steps can still be taken back
  await mei.reload();
  await hand.shown();
  await expect(hand.marks).toHaveCount(9);
  await key('Control+z');
  await hand.saved();
  expect(pixels(stored(item)[8]!.geometry)).toBeGreaterThan(painted);
  await key('Control+Shift+z');
  await hand.saved();
  expect(pixels(stored(item)[8]!.geometry)).toBe(painted);

  // submitted (nobody reviews here), released as COCO: the numbers are those drawn
  await hand.ready();
  await key('s');
  await expect.poll(() => JSON.parse(sql('demo', `select state from items where id = ${item}`))[0].state).toBe('accepted');
  const out = join(folders.demo, 'every-shape', 'coco');
  rmSync(out, { recursive: true, force: true });
  artisan('skeno:release', name, '--format=coco', `--out=${out}`, '--states=any', '--no-pictures', '--json');
  const coco = JSON.parse(readFileSync(join(out, 'annotations/all.json'), 'utf8'));
  expect(coco.annotations).toHaveLength(7);
  expect(coco.annotations.filter((a: { segmentation: unknown }) => !Array.isArray(a.segmentation))).toHaveLength(2);
  expect(coco.annotations.find((a: { num_keypoints?: number; category_id: number }) => a.category_id === 7).num_keypoints).toBe(3);
  expect(coco.annotations.find((a: { category_id: number }) => a.category_id === 8).area).toBe(painted);
});

test('many marks at once, between items, in the stack, as parts, claimed and mended', async ({ person }) => {
  test.setTimeout(90_000);
  const { mei, hand, item } = await open(person);
  const key = (...keys: string[]) => keys.reduce((before, k) => before.then(() => mei.keyboard.press(k)), Promise.resolve());
  await key('1', 'e');
  await hand.drag(30, 30, 80, 80);
  await hand.drag(100, 30, 150, 80);
  await key('q', 'Escape');
  // all that a drag encloses; copied onto the next item
  await hand.drag(15, 15, 170, 100);
  const here = await mei.locator('.crumbs strong').textContent();
  await key('Control+c', 'v');
  await expect(mei.locator('.crumbs strong')).not.toHaveText(here!);
  await hand.shown();
  await expect(hand.marks).toHaveCount(0);
  await key('Control+v');
  await expect(hand.marks).toHaveCount(2);
  // both together: flagged, moved, undone
  await key('f', 'x', 'q', 'Escape', 'ArrowRight');
  await hand.saved();
  const there = JSON.parse(sql('demo', `select item_id from marks where project_id = ${project} order by id desc limit 1`))[0].item_id;
  expect(stored(there).map((m) => [m.flags[0], Math.round((m.geometry as unknown as { x: number }).x)])).toEqual([
    ['cut_off', 31],
    ['cut_off', 101]
  ]);
  await key('Control+z');
  await hand.saved();
  expect(Math.round((stored(there)[0]!.geometry as unknown as { x: number }).x)).toBe(30);
  await key('Delete');
  await expect(hand.marks).toHaveCount(0);
  await key('c');
  await expect(mei.locator('.crumbs strong')).toHaveText(here!);
  await hand.shown();
  await expect(hand.marks).toHaveCount(2);

  // a leaf that is a part of a branch, brought to the back
  await key('Escape', '4', 'e');
  for (const [x, y] of [
    [200, 50],
    [380, 60]
  ])
    await hand.click(x!, y!);
  await key('Enter', 'Escape', '3', 'e');
  for (const [x, y] of [
    [250, 70],
    [300, 70],
    [280, 110]
  ])
    await hand.click(x!, y!);
  await key('Enter', 'q', 'f', 'r');
  await expect(mei.locator('.tag')).toHaveText(/part of/);
  await hand.click(290, 55);
  await key('q', 'f', 'w', 'Escape');
  await hand.saved();
  const leaf = stored(item).find((m) => m.class === 'leaf')!;
  expect(leaf.part_of).toMatch(/^01/);
  expect(leaf.stack).toBeLessThan(0);

  // two masks, the second claims from the first; a hole mended
  await key('Escape', 'Escape', '8', 'e');
  await hand.drag(60, 200, 160, 200);
  await key('Enter', 'b', 'q', 'Escape');
  await hand.drag(110, 200, 200, 200);
  await hand.saved();
  const nets = () => stored(item).filter((m) => m.class === 'net');
  const apart = nets().map((m) => pixels(m.geometry));
  expect(apart[0]).toBeLessThan(60 * 24 + 460);
  await key('z', 'z', 'z', 'z', 'z', 'z', 'z', 'd');
  await hand.click(180, 200);
  await hand.saved();
  const torn = nets().map((m) => pixels(m.geometry));
  expect(torn[1]).toBeLessThan(apart[1]!);
  await key('b', 'e');
  await expect(mei.getByText(/px change/)).toBeVisible();
  await key('Enter');
  await hand.saved();
  expect(nets().map((m) => pixels(m.geometry))[1]).toBeGreaterThanOrEqual(apart[1]!);
  // one side of the leaf drawn anew; then the other stretch goes instead of the shorter
  await key('Enter', 'Escape', 'q');
  await hand.click(275, 85);
  await key('f', 'f');
  for (const [x, y] of [
    [250, 70],
    [275, 50],
    [300, 70]
  ])
    await hand.click(x!, y!);
  await key('b', 'Enter');
  await hand.saved();
  const ring = () => (stored(item).find((m) => m.class === 'leaf')!.geometry as unknown as { rings: number[][] }).rings[0]!;
  // of the triangle only its upper side stays, and the new line
  expect(ring()).toHaveLength(6);
  await key('Control+z', 'f', 'f');
  for (const [x, y] of [
    [250, 70],
    [275, 60],
    [300, 70]
  ])
    await hand.click(x!, y!);
  await key('Enter');
  await hand.saved();
  expect(ring()).toHaveLength(8);
  // who did what
  await key('q', 'Escape');
  await hand.click(190, 200);
  await key('f', 'z');
  await expect(mei.getByRole('region', { name: 'history of the mark' })).toContainText('create by Mei Castellan');
  await key('Escape');
});

test('any of 37 classes is at most two keys away', async ({ person }) => {
  const folder = join(folders.demo, 'every-shape');
  const many = {
    skeno: 'codebook/1',
    classes: Array.from({ length: 37 }, (_, i) => ({ key: `sort_${i + 1}`, name: `Sort ${i + 1}`, shapes: ['box'] }))
  };
  writeFileSync(join(folder, 'many.json'), JSON.stringify(many));
  const id = JSON.parse(artisan('skeno:project', `Many sorts ${Date.now()}`, `--codebook=${join(folder, 'many.json')}`, '--json'));
  member(id.project, 'Ines Okafor', 'manager');
  artisan('skeno:import', id.name, join(folder, 'pictures'), '--json');
  const item = JSON.parse(sql('demo', `select id from items where project_id = ${id.project} limit 1`))[0].id;
  sql(
    'demo',
    `insert into turns (project_id, item_id, stage, pass, round, layer_id, state, user_id, created_at, updated_at) select ${id.project}, ${item}, 'label', 1, 1, layers.id, 'waiting', users.id, '2026-01-01', '2026-01-01' from users join layers on layers.item_id = ${item} where users. name = 'Ines Okafor'`
  );
  const turn = JSON.parse(sql('demo', `select id from turns where item_id = ${item}`))[0].id;
  const ines = await person('Ines Okafor');
  await ines.goto(url('demo', `/p/${id.project}/bench/${turn}`));
  await new StageHand(ines).shown();
  const lit = ines.getByRole('toolbar').locator('[role=group]').first().getByRole('button', { pressed: true });
  const board = ['1', '2', '3', '4', '5', 'q', 'w', 'e', 'r', 't', 'a', 's', 'd', 'f', 'g', 'z', 'x', 'c', 'v', 'b'];
  for (let n = 1; n <= 37; n++) {
    const keys = n <= 10 ? [String(n % 10)] : n <= 20 ? ['`', board[n - 1]!] : ['`', `Shift+${board[n - 21]!}`];
    expect(keys.length).toBeLessThanOrEqual(2);
    for (const k of keys) await ines.keyboard.press(k);
    const hand = new StageHand(ines);
    await hand.drag(30, 30, 60, 60);
    await expect(hand.marks.filter({ hasText: '' }).first()).toBeVisible();
    await expect(ines.getByRole('listitem', { name: new RegExp(`^Sort ${n} 1 `) })).toBeVisible();
    await ines.keyboard.press('Delete');
    if (n <= 10) await expect(lit).toContainText(`Sort ${n}`);
  }
  // by a part of the name
  await ines.keyboard.press('/');
  await ines.getByLabel('name of the class').pressSequentially('33');
  await ines.keyboard.press('Enter');
  await new StageHand(ines).drag(30, 30, 60, 60);
  await expect(ines.getByRole('listitem', { name: /^Sort 33 1 / })).toBeVisible();
});
