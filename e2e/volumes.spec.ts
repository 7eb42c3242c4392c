import { execFileSync } from 'node:child_process';
import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { artisan, expect, freeAll, member, StageHand, test } from './fixtures';
import { args, folders, url, webgl } from './place';

test.describe.configure({ mode: 'serial' });
test.use({ launchOptions: { executablePath: '/usr/bin/chromium', args: [...args, ...webgl] } });
const name = `Scans ${Date.now()}`;
const folder = join(folders.demo, 'scans-in');
/** A dark box of 40 × 32 × 12 voxels of 1 × 1 × 2 mm with a bright ball in it, that lies on the sheet as in its file. */
const SIZES = [40, 32, 12] as const;
const BALL = { x: 28, y: 20, z: 6, r: 5 };
const inBall = (x: number, y: number, z: number) => (x - BALL.x) ** 2 + (y - BALL.y) ** 2 + (2 * (z - BALL.z)) ** 2 <= BALL.r ** 2;
let project = 0;

/** The voxels of a map by their value: "x y z". */
function voxels(file: string): Map<number, Set<string>> {
  const code = `require 'vendor/autoload.php';
    foreach (Skeno\\Core\\Volume\\Nifti::open($argv[1], new Skeno\\Core\\Volume\\VolumeLimits)->slices() as $k => $slice)
      foreach ($slice as $at => $value) if ($value !== 0) echo $value, ' ', $at % 40, ' ', intdiv($at, 40), ' ', $k, "\\n";`;
  const found = new Map<number, Set<string>>();
  for (const line of execFileSync('php', ['-r', code, file], { maxBuffer: 1 << 26 })
    .toString()
    .trim()
    .split('\n')) {
    const [value, ...at] = line.split(' ');
    if (value === '') continue;
    if (!found.has(Number(value))) found.set(Number(value), new Set());
    found.get(Number(value))!.add(at.join(' '));
  }
  return found;
}
/** The label map of the project as it is now. */
function written(): Map<number, Set<string>> {
  const out = join(folder, `out-${Math.random()}`);
  artisan('skeno:release', String(project), '--format=nifti', `--out=${out}`, '--states=any', '--json');
  expect(readFileSync(join(out, 'labels.txt'), 'utf8')).toBe('Bruise\nCore\n');
  return voxels(join(out, 'ct', 'box.nii.gz'));
}
const block = (x0: number, x1: number, y0: number, y1: number, z: number): string[] => {
  const all: string[] = [];
  for (let x = x0; x < x1; x++) for (let y = y0; y < y1; y++) all.push(`${x} ${y} ${z}`);
  return all;
};
const onSlice = (set: Set<string> | undefined, z: number) => [...(set ?? [])].filter((v) => v.endsWith(` ${z}`)).sort();
const slice = (page: Page) => page.getByRole('slider', { name: 'slice' });
async function press(page: Page, ...keys: string[]): Promise<void> {
  for (const key of keys) await page.keyboard.press(key);
}
/** Goes to a slice by its number, from 1. */
async function to(page: Page, n: number): Promise<void> {
  await press(page, 't', 'e');
  await page.keyboard.type(String(n));
  await press(page, 'Enter');
  await expect(slice(page)).toHaveAttribute('aria-valuenow', String(n));
}
/** An outline by its corners, added to the mask in hand. */
async function outline(hand: StageHand, x0: number, y0: number, x1: number, y1: number): Promise<void> {
  for (const [x, y] of [
    [x0, y0],
    [x1, y0],
    [x1, y1],
    [x0, y1]
  ] as const)
    await hand.click(x, y);
  await hand.page.keyboard.press('Enter');
  await hand.saved();
}

test.beforeAll(() => {
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(join(folder, 'in', 'ct'), { recursive: true });
  const values: number[] = [];
  for (let z = 0; z < SIZES[2]; z++)
    for (let y = 0; y < SIZES[1]; y++)
      for (let x = 0; x < SIZES[0]; x++) values.push(inBall(x, y, z) ? 900 : 100 + ((x * 7 + y * 5 + z * 3) % 40));
  writeFileSync(join(folder, 'values.json'), JSON.stringify(values));
  const code = `require 'vendor/autoload.php';
    Skeno\\Core\\Tests\\Volume\\Scans::nifti($argv[1], [40, 32, 12], json_decode(file_get_contents($argv[2])), sform: [-1.0, 0.0, 0.0, 0.0, 0.0, -1.0, 0.0, 0.0, 0.0, 0.0, 2.0, 0.0]);`;
  execFileSync('php', ['-r', code, join(folder, 'in', 'ct', 'box.nii.gz'), join(folder, 'values.json')]);
  const codebook = {
    skeno: 'codebook/1',
    classes: [
      { key: 'bruise', name: 'Bruise', shapes: ['mask'], shortcut: '1' },
      { key: 'core', name: 'Core', shapes: ['mask'], shortcut: '2' }
    ]
  };
  writeFileSync(join(folder, 'codebook.json'), JSON.stringify(codebook));
  project = JSON.parse(artisan('skeno:project', name, `--codebook=${join(folder, 'codebook.json')}`, '--json')).project;
  member(project, 'Ines Okafor', 'manager');
  member(project, 'Mei Castellan', 'labeller');
});
test.beforeEach(() => void freeAll('demo'));

test('a scan comes in through the page and is handed out', async ({ person }) => {
  const ines = await person('Ines Okafor');
  await ines.goto(url('demo', `/p/${project}/bring-in`));
  const [chooser] = await Promise.all([ines.waitForEvent('filechooser'), ines.getByText('choose a folder').click()]);
  await chooser.setFiles(join(folder, 'in', 'ct'));
  await expect(ines.getByRole('region', { name: 'report' })).toContainText('40 × 32 × 12 voxels', { timeout: 60_000 });
  await ines.goto(url('demo', `/p/${project}/hand-out`));
  await ines.getByRole('button', { name: 'to which labellers' }).click();
  await ines.getByRole('checkbox', { name: /Mei Castellan/ }).check();
  await ines.getByRole('button', { name: 'Hand out' }).click();
  const mei = await person('Mei Castellan');
  await expect(mei.getByRole('region', { name: `my work in ${name}` })).toBeVisible();
});

test('a bruise on three slices, the ones between worked out, and every voxel of the map is what was drawn', async ({ person }) => {
  test.setTimeout(120_000);
  const mei = await person('Mei Castellan');
  await mei
    .getByRole('region', { name: `my work in ${name}` })
    .getByRole('button', { name: 'Continue' })
    .click();
  const hand = new StageHand(mei);
  await hand.ready();
  await to(mei, 5);
  // the tool that adds outlines to a mask
  await press(mei, '1', 'f');
  await outline(hand, 10, 8, 20, 14);
  await press(mei, 'x', 'x');
  await expect(slice(mei)).toHaveAttribute('aria-valuenow', '7');
  await outline(hand, 14, 8, 24, 14);
  // by the wheel
  await mei.mouse.wheel(0, 100);
  await expect(slice(mei)).toHaveAttribute('aria-valuenow', '8');
  await mei.mouse.wheel(0, 100);
  await expect(slice(mei)).toHaveAttribute('aria-valuenow', '9');
  await outline(hand, 14, 8, 24, 18);
  await expect(hand.marks).toHaveCount(1);
  await expect(hand.marks.first()).toContainText('slices 5–9');
  await hand.saved();
  const map = written();
  expect([...map.keys()]).toEqual([1]);
  const bruise = map.get(1);
  expect(onSlice(bruise, 4)).toEqual(block(10, 20, 8, 14, 4).sort());
  // half way between two of one size it has gone half of the way
  expect(onSlice(bruise, 5)).toEqual(block(12, 22, 8, 14, 5).sort());
  expect(onSlice(bruise, 6)).toEqual(block(14, 24, 8, 14, 6).sort());
  expect(onSlice(bruise, 8)).toEqual(block(14, 24, 8, 18, 8).sort());
  const between = onSlice(bruise, 7).length;
  expect(between).toBeGreaterThan(60);
  expect(between).toBeLessThan(100);
  expect(onSlice(bruise, 3)).toEqual([]);
  expect(onSlice(bruise, 9)).toEqual([]);
});

test('on the plane from the front a stroke changes the slices it crosses and those alone', async ({ person }) => {
  test.setTimeout(120_000);
  const before = written();
  const mei = await person('Mei Castellan');
  await mei
    .getByRole('region', { name: `my work in ${name}` })
    .getByRole('button', { name: 'Continue' })
    .click();
  const hand = new StageHand(mei);
  await hand.ready();
  // the row y 20 of the slices: the cross goes there by a press beside
  await press(mei, '2', 'w');
  await expect(mei.getByRole('application')).toHaveAccessibleName(/40 × 24 pixels/);
  await expect(mei.getByRole('button', { name: 'make large: slice' })).toContainText(/^slice\s*\d+/);
  // slices are two pixels high here, the last one at the top
  await press(mei, 'f');
  await outline(hand, 3, 4, 7, 10);
  await expect(hand.marks).toHaveCount(2);
  await expect(hand.marks.filter({ hasText: 'slices 8–10' })).toHaveCount(1);
  await hand.saved();
  const map = written();
  expect(map.get(1)).toEqual(before.get(1));
  const expected = new Set<string>();
  // where the planes met when it was opened: in the middle
  for (const z of [7, 8, 9]) for (const x of [3, 4, 5, 6]) expected.add(`${x} 16 ${z}`);
  expect(map.get(2)).toEqual(expected);
  await press(mei, 'Control+z');
  await expect(hand.marks).toHaveCount(1);
  await hand.saved();
});

test('a region is grown from a press, seen before it is taken, and is the ball to the voxel', async ({ person }) => {
  test.setTimeout(120_000);
  const mei = await person('Mei Castellan');
  await mei
    .getByRole('region', { name: `my work in ${name}` })
    .getByRole('button', { name: 'Continue' })
    .click();
  const hand = new StageHand(mei);
  await hand.ready();
  await to(mei, 7);
  await press(mei, 'Escape', '2', 'b', 'a');
  await expect(mei.getByRole('status', { name: 'grow' })).toContainText('press inside');
  await hand.click(BALL.x + 0.5, BALL.y + 0.5);
  let ball = 0;
  for (let z = 0; z < SIZES[2]; z++) for (let y = 0; y < SIZES[1]; y++) for (let x = 0; x < SIZES[0]; x++) if (inBall(x, y, z)) ball++;
  await expect(mei.getByRole('status', { name: 'grow' })).toContainText(`${ball} voxels`);
  // it is not kept yet, and can't be submitted past
  await expect(hand.marks).toHaveCount(1);
  await press(mei, 'Enter');
  await expect(hand.marks).toHaveCount(2);
  await expect(mei.getByLabel('how large it is')).toContainText('ml');
  await expect(mei.getByLabel('Core as a body')).toBeVisible();
  await hand.saved();
  const found = written().get(2)!;
  expect(found.size).toBe(ball);
  for (const v of found) expect(inBall(...(v.split(' ').map(Number) as [number, number, number]))).toBe(true);
});

test('distances are measured in mm, and the window goes to another part of what is measured', async ({ person }) => {
  const mei = await person('Mei Castellan');
  await mei
    .getByRole('region', { name: `my work in ${name}` })
    .getByRole('button', { name: 'Continue' })
    .click();
  const hand = new StageHand(mei);
  await hand.ready();
  await press(mei, 't', 'r');
  await hand.drag(4.5, 4.5, 7.5, 8.5);
  await expect(mei.getByRole('status', { name: 'distance' })).toHaveText('5.00 mm');
  await press(mei, 'Escape', 'Escape');
  await expect(mei.getByRole('status', { name: 'distance' })).toHaveCount(0);
  const level = async () =>
    (await mei.locator('.reading').textContent())!
      .match(/(-?\d+) ± (\d+)/)!
      .slice(1)
      .map(Number);
  const [was] = await level();
  await press(mei, 't', 'f');
  const [now] = await level();
  expect(now).toBeLessThan(was!);
});

test('a browser without WebGL says so where the body would be, and all else works', async ({ anyone }) => {
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
  const hand = new StageHand(mei);
  await hand.ready();
  await expect(mei.getByRole('note')).toContainText('Turn on hardware acceleration');
  await expect(hand.marks).toHaveCount(2);
  await press(mei, 's');
  await expect(mei.getByText('All done here')).toBeVisible();
});
