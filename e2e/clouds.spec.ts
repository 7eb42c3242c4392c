import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { artisan, expect, freeAll, member, StageHand, test } from './fixtures';
import { args, folders, url, webgl } from './place';

test.describe.configure({ mode: 'serial' });
test.use({ launchOptions: { executablePath: '/usr/bin/chromium', args: [...args, ...webgl] } });
const name = `Row ${Date.now()}`;
const folder = join(folders.demo, 'clouds-in');
const FRAMES = 6;
/** A box of 1.2 × 0.8 × 0.9 m that stands on the ground, and comes half a metre nearer from a frame to the next. */
const BOX = { x: 5, y: 1.5, l: 1.2, w: 0.8, h: 0.9, step: -0.5 };
/** 1.5 m over the scanner's foot, looking ahead. */
const CAMERA = {
  name: 'front',
  width: 480,
  height: 320,
  to_camera: [0, -1, 0, 0, 0, 0, -1, 1.5, 1, 0, 0, 0],
  intrinsics: [240, 240, 240, 160]
};
const GREY =
  'iVBORw0KGgoAAAANSUhEUgAAAAMAAAACCAIAAAASFvFNAAAACXBIWXMAAA7EAAAOxAGVKw4bAAAAFUlEQVQImWPs6OhgYGBgYGBgYoABABzsAZx5Nk3qAAAAAElFTkSuQmCC';
let project = 0;

/** A scan as KITTI has them: the ground, and of the box the two sides that face the scanner and its top. */
function scan(frame: number): Buffer {
  const points: number[][] = [];
  for (let i = 0; i < 120; i++) for (let j = 0; j < 120; j++) points.push([-12 + i / 5, -12 + j / 5, 0, 0.2]);
  const x = BOX.x + BOX.step * frame;
  for (let i = 0; i <= 40; i++)
    for (let k = 1; k <= 30; k++) {
      points.push([x - BOX.l / 2, BOX.y - BOX.w / 2 + (BOX.w * i) / 40, (BOX.h * k) / 30, 0.8]);
      points.push([x - BOX.l / 2 + (BOX.l * i) / 40, BOX.y - BOX.w / 2, (BOX.h * k) / 30, 0.8]);
      points.push([x - BOX.l / 2 + (BOX.l * i) / 40, BOX.y - BOX.w / 2 + (BOX.w * k) / 30, BOX.h, 0.8]);
    }
  const bytes = Buffer.alloc(points.length * 16);
  points.flat().forEach((n, i) => bytes.writeFloatLE(n, i * 4));
  return bytes;
}
async function press(page: Page, ...keys: string[]): Promise<void> {
  for (const key of keys) await page.keyboard.press(key);
}
/** Where a place on the ground is on the screen, as the stage describes itself from above. */
async function at(page: Page, x: number, y: number): Promise<{ x: number; y: number }> {
  const stage = page.getByRole('application');
  await expect(stage).toHaveAccessibleDescription(/shown from above/);
  const words = (await page.locator('#stage-view').textContent())!;
  const [left, top, metre] = [...words.matchAll(/-?\d+\.\d+/g)].map((m) => Number(m[0])) as [number, number, number];
  const box = (await stage.boundingBox())!;
  return { x: box.x + (x - left) * metre, y: box.y + (top - y) * metre };
}
async function drag(page: Page, from: { x: number; y: number }, to: { x: number; y: number }): Promise<void> {
  await page.mouse.move(from.x, from.y);
  await page.mouse.down();
  await page.mouse.move((from.x + to.x) / 2, (from.y + to.y) / 2, { steps: 4 });
  await page.mouse.move(to.x, to.y, { steps: 4 });
  await page.mouse.up();
}
/** Cuboids of the project as they are now, by line. */
function written(): Record<string, string>[] {
  const out = join(folder, `out-${Math.random()}`);
  artisan('skeno:release', String(project), '--format=cuboids', `--out=${out}`, '--states=any', '--json');
  const [head, ...lines] = readFileSync(join(out, 'cuboids.csv'), 'utf8').trim().split('\n');
  const names = head!.split(',');
  return lines.map((line) => Object.fromEntries(line.split(',').map((cell, i) => [names[i]!, cell])));
}
const numbers = (row: Record<string, string>, ...names: string[]) => names.map((n) => Number(row[n]));
function near(a: number[], b: number[], off: number): void {
  expect(a).toHaveLength(b.length);
  a.forEach((n, i) => expect(Math.abs(n - b[i]!), `${a.join(' ')} instead of ${b.join(' ')}`).toBeLessThanOrEqual(off));
}
async function work(page: Page): Promise<StageHand> {
  await page
    .getByRole('region', { name: `my work in ${name}` })
    .getByRole('button', { name: 'Continue' })
    .click();
  const hand = new StageHand(page);
  await hand.shown();
  return hand;
}
const heading = (page: Page) => page.getByLabel('heading in degrees');

test.beforeAll(() => {
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(join(folder, 'in', 'pass'), { recursive: true });
  for (let frame = 0; frame < FRAMES; frame++) {
    writeFileSync(join(folder, 'in', 'pass', `${frame + 8}.bin`), scan(frame));
    // a grey picture of each but one
    if (frame !== 3) writeFileSync(join(folder, 'in', 'pass', `${frame + 8}.png`), Buffer.from(GREY, 'base64'));
  }
  writeFileSync(join(folder, 'in', 'pass', 'cameras.json'), JSON.stringify({ cameras: [CAMERA] }));
  const codebook = {
    skeno: 'codebook/1',
    classes: [
      { key: 'bin', name: 'Bin', shapes: ['cuboid'], shortcut: '1' },
      { key: 'post', name: 'Post', shapes: ['cuboid'], shortcut: '2' }
    ]
  };
  writeFileSync(join(folder, 'codebook.json'), JSON.stringify(codebook));
  project = JSON.parse(artisan('skeno:project', name, `--codebook=${join(folder, 'codebook.json')}`, '--json')).project;
  member(project, 'Ines Okafor', 'manager');
  member(project, 'Mei Castellan', 'labeller');
});
test.beforeEach(() => void freeAll('demo'));

test('the scans of a folder come in as one sequence and are handed out', async ({ person }) => {
  const ines = await person('Ines Okafor');
  await ines.goto(url('demo', `/p/${project}/bring-in`));
  await ines.getByRole('checkbox', { name: /point clouds of a folder/ }).check();
  const [chooser] = await Promise.all([ines.waitForEvent('filechooser'), ines.getByText('choose a folder').click()]);
  await chooser.setFiles(join(folder, 'in', 'pass'));
  await expect(ines.getByRole('region', { name: 'report' })).toContainText('6 frames', { timeout: 60_000 });
  await ines.goto(url('demo', `/p/${project}/hand-out`));
  await ines.getByRole('button', { name: 'to which labellers' }).click();
  await ines.getByRole('checkbox', { name: /Mei Castellan/ }).check();
  await ines.getByRole('button', { name: 'Hand out' }).click();
  const mei = await person('Mei Castellan');
  await expect(mei.getByRole('region', { name: `my work in ${name}` })).toBeVisible();
});

test('a bin in three inputs on six frames: dragged over, and followed by its points', async ({ person }) => {
  const mei = await person('Mei Castellan');
  const hand = await work(mei);
  await press(mei, 'w', 'e');
  await drag(mei, await at(mei, 4.2, 0.9), await at(mei, 5.8, 2.1));
  await expect(hand.marks).toHaveCount(1);
  await press(mei, 'g', 'f');
  await expect(mei.getByText('followed to frame 6')).toBeVisible();
  await hand.saved();
  const rows = written();
  expect(rows.map((r) => Number(r.frame))).toEqual([0, 1, 2, 3, 4, 5]);
  rows.forEach((r, frame) => {
    near(numbers(r, 'x', 'y', 'z'), [BOX.x + BOX.step * frame, BOX.y, BOX.h / 2], 0.06);
    near(numbers(r, 'length', 'width', 'height'), [BOX.l, BOX.w, BOX.h], 0.06);
  });
  // a step back takes the keys away, another the cuboid
  await press(mei, 'Control+z');
  await hand.saved();
  near(numbers(written()[5]!, 'x'), [BOX.x], 0.06);
  await press(mei, 'Control+z');
  await expect(hand.marks).toHaveCount(0);
  await hand.saved();
});

test('a bin in five inputs on six frames: dragged over, its last frame, moved there, fitted', async ({ person }) => {
  const mei = await person('Mei Castellan');
  const hand = await work(mei);
  await press(mei, 'w', 'e');
  // a rough drag, from its back to its front
  await drag(mei, await at(mei, 4.2, 0.9), await at(mei, 5.8, 2.1));
  await expect(hand.marks).toHaveCount(1);
  await expect(mei.getByText(/^\d[\d,]* points inside$/)).toBeVisible();
  await hand.saved();
  await press(mei, 'Shift+x');
  await expect(mei.getByRole('slider', { name: 'frame' })).toHaveAttribute('aria-valuenow', '6');
  await press(mei, 'q');
  await drag(mei, await at(mei, 5, 1.5), await at(mei, 2.44, 1.55));
  await press(mei, 'a');
  await hand.saved();
  await expect(mei.getByRole('group', { name: 'keys' }).getByRole('button')).toHaveCount(2);
  const rows = written();
  expect(rows.map((r) => [r.file, r.frame, r.track, r.class])).toEqual(
    Array.from({ length: FRAMES }, (_, frame) => ['pass', String(frame), '1', 'Bin'])
  );
  rows.forEach((r, frame) => {
    near(numbers(r, 'x', 'y', 'z'), [BOX.x + BOX.step * frame, BOX.y, BOX.h / 2], 0.06);
    near(numbers(r, 'length', 'width', 'height'), [BOX.l, BOX.w, BOX.h], 0.06);
    near(numbers(r, 'qx', 'qy', 'qz', 'qw'), [0, 0, 0, 1], 0.02);
    expect(Number(r.points)).toBeGreaterThan(1000);
  });
});

test('it is adjusted in two views, by keys and by numbers; a step back is a step back', async ({ person }) => {
  const mei = await person('Mei Castellan');
  const hand = await work(mei);
  await hand.pick(hand.marks.first());
  await expect(heading(mei)).toBeVisible();
  const before = written()[0]!;
  // its top, pulled up from the side; its front, pulled ahead from above
  const pull = async (
    view: string,
    from: (b: { x: number; y: number; width: number; height: number }) => { x: number; y: number },
    dx: number,
    dy: number
  ) => {
    const box = (await mei.locator(`[data-view=${view}] svg polygon`).boundingBox())!;
    const p = from(box);
    await drag(mei, p, { x: p.x + dx, y: p.y + dy });
    return box;
  };
  const side = await pull('side', (b) => ({ x: b.x + b.width / 2, y: b.y }), 0, -20);
  await hand.saved();
  const metre = side.height / Number(before.height);
  const taller = written()[0]!;
  near(numbers(taller, 'height'), [Number(before.height) + 20 / metre], 0.02);
  near(numbers(taller, 'length', 'width'), numbers(before, 'length', 'width'), 0.001);
  // it is as high on every frame, and stands where it stood
  for (const r of written()) {
    near(numbers(r, 'height'), numbers(taller, 'height'), 0.001);
    near([Number(r.z) - Number(r.height) / 2], [0], 0.03);
  }
  await pull('above', (b) => ({ x: b.x + b.width, y: b.y + b.height / 2 }), 15, 0);
  await hand.saved();
  expect(Number(written()[0]!.length)).toBeGreaterThan(Number(before.length) + 0.05);
  await press(mei, 'Control+z', 'Control+z');
  await hand.saved();
  near(
    numbers(written()[0]!, 'length', 'width', 'height', 'x', 'y', 'z'),
    numbers(before, 'length', 'width', 'height', 'x', 'y', 'z'),
    0.0015
  );
  // by numbers, key by key; then turned back by keys
  await press(mei, 'g', 'e');
  await expect(heading(mei)).toBeFocused();
  await mei.keyboard.type('12');
  await press(mei, 'Enter');
  await expect(heading(mei)).toHaveValue('12.0');
  for (let i = 0; i < 12; i++) await press(mei, '.');
  await expect(heading(mei)).toHaveValue('0.0');
  // what keys do within a moment is one step, which another key ends
  await press(mei, 'q');
  await press(mei, 'ArrowUp', 'ArrowUp', 'q');
  await hand.saved();
  near(numbers(written()[0]!, 'x'), [Number(before.x) + 0.1], 0.011);
  await press(mei, 'Control+z', 'Control+z', 'Control+z');
  await hand.saved();
});

test('without a network a cloud is the cloud, also when it is loaded again, and what is drawn there arrives', async ({ person }) => {
  const mei = await person('Mei Castellan');
  const hand = await work(mei);
  await expect(hand.marks).toHaveCount(1);
  await mei.waitForFunction(async () => {
    const names = await caches.keys();
    const cache = names[0] ? await caches.open(names[0]) : null;
    return navigator.serviceWorker.controller !== null && ((await cache?.keys())?.length ?? 0) > 10;
  });
  // loaded by the worker's leave, so that it knows what shows clouds too
  await mei.reload();
  await hand.shown();
  await mei.context().setOffline(true);
  await mei.reload();
  await hand.shown();
  await expect(mei.getByText('18,090 points').first()).toBeVisible();
  await press(mei, 'w', '2', 'e');
  await drag(mei, await at(mei, 1.5, -2.4), await at(mei, 2.5, -1.6));
  await expect(hand.marks).toHaveCount(2);
  await expect(mei.getByText(/not fitted, it is as it was dragged/)).toBeVisible();
  await expect(mei.getByRole('status', { name: 'saved state' })).toContainText('offline, 1 waiting');
  await mei.context().setOffline(false);
  await hand.saved();
  near(
    numbers(
      written().find((r) => r.class === 'Post')!,
      'x',
      'y',
      'length',
      'width'
    ),
    [2, -2, 1, 0.8],
    0.03
  );
  await press(mei, 'Delete');
  await expect(hand.marks).toHaveCount(1);
  await hand.saved();
});

test('the picture of a camera has the cuboid where it is; a press takes it; it leaves in the axes of the camera', async ({ person }) => {
  const mei = await person('Mei Castellan');
  const hand = await work(mei);
  const picture = mei.getByRole('img', { name: 'what front saw' });
  await expect(picture).toBeVisible();
  await expect(picture.locator('g line')).toHaveCount(12);
  /** Where a place is on the picture as it is shown. */
  const on = async (x: number, y: number, z: number) => {
    const box = (await picture.boundingBox())!;
    const scale = Math.min(box.width / CAMERA.width, box.height / CAMERA.height);
    const [u, v] = [240 - (240 * y) / x, 160 + (240 * (1.5 - z)) / x];
    return { x: box.x + box.width / 2 + (u - 240) * scale, y: box.y + box.height / 2 + (v - 160) * scale };
  };
  const drawn = (await picture.locator('g').boundingBox())!;
  // its near face is at 4.4 m: its upper left corner, and its lower one
  const corner = await on(BOX.x - BOX.l / 2, BOX.y + BOX.w / 2, BOX.h);
  near([drawn.x], [corner.x], 3);
  near([drawn.y + drawn.height], [(await on(BOX.x - BOX.l / 2, BOX.y, 0)).y], 3);
  await expect(heading(mei)).toBeHidden();
  const middle = await on(BOX.x - BOX.l / 2, BOX.y, BOX.h / 2);
  await mei.mouse.click(middle.x, middle.y);
  await expect(heading(mei)).toBeVisible();
  await mei.mouse.click((await on(5, -2, 0.5)).x, middle.y);
  await expect(heading(mei)).toBeHidden();
  // large by a key, and of a frame nobody photographed it is said
  await press(mei, 'w', 'w');
  await expect.poll(async () => (await picture.boundingBox())!.width).toBeGreaterThan(500);
  await press(mei, 'x', 'x', 'x');
  await expect(mei.getByText('no picture of this frame')).toBeVisible();
  await press(mei, 'x');
  await expect(picture).toBeVisible();
  const [row] = written();
  const out = join(folder, 'kitti');
  artisan('skeno:release', String(project), '--format=kitti', `--out=${out}`, '--states=any', '--json');
  const words = readFileSync(join(out, 'pass', 'label_2', '8.txt'), 'utf8')
    .trim()
    .split(' ');
  expect(words[0]).toBe('Bin');
  near(
    words.slice(8, 14).map(Number),
    [
      Number(row!.height),
      Number(row!.width),
      Number(row!.length),
      -Number(row!.y),
      1.5 - (Number(row!.z) - Number(row!.height) / 2),
      Number(row!.x)
    ],
    0.005
  );
  expect(readFileSync(join(out, 'pass', 'calib', '8.txt'), 'utf8')).toContain('Tr_velo_to_cam: ');
  await hand.saved();
});

test('a browser without WebGL says so, and what to do', async ({ anyone }) => {
  const mei = await anyone('demo');
  await mei.addInitScript(() => {
    const get = HTMLCanvasElement.prototype.getContext;
    HTMLCanvasElement.prototype.getContext = function (this: HTMLCanvasElement, kind: string, ...rest: unknown[]) {
      return kind.startsWith('webgl') ? null : (get as (...all: unknown[]) => unknown).call(this, kind, ...rest);
    } as typeof get;
  });
  await mei.reload();
  await mei.getByRole('button', { name: 'Mei Castellan' }).click();
  await mei
    .getByRole('region', { name: `my work in ${name}` })
    .getByRole('button', { name: 'Continue' })
    .click();
  await expect(mei.getByRole('alert')).toContainText('WebGL 2 is off. Turn on hardware acceleration');
});

test('what is half done is left by Esc, an empty one is a doubt, and the rest is handed in', async ({ person }) => {
  const mei = await person('Mei Castellan');
  const hand = await work(mei);
  await press(mei, 'w', '2', 'e');
  const from = await at(mei, -3, -3);
  await mei.mouse.move(from.x, from.y);
  await mei.mouse.down();
  await mei.mouse.move(from.x + 30, from.y - 30, { steps: 3 });
  await press(mei, 'Escape');
  await mei.mouse.up();
  await expect(hand.marks).toHaveCount(1);
  // over nothing but the ground
  await drag(mei, await at(mei, -4, -4), await at(mei, -3, -3));
  await expect(hand.marks).toHaveCount(2);
  await hand.saved();
  await press(mei, '+', '+', '+', '+', '+', '+');
  await expect(mei.getByText(/Post 1 has no point in it/)).toBeVisible();
  await expect(mei.getByRole('button', { name: '1 empty cuboid' })).toBeVisible();
  await hand.saved();
  await press(mei, 'Delete');
  await expect(hand.marks).toHaveCount(1);
  await hand.saved();
  await press(mei, 's');
  await expect(mei.getByText('All done here')).toBeVisible();
});
