import { execFileSync } from 'node:child_process';
import { mkdirSync, readdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { artisan, expect, freeAll, member, sql, StageHand, test } from './fixtures';
import { folders, url } from './place';

/** Scenes whose every pixel is known, as pictures of a project of their own; what is cut out of them by hand is held against the truth. */
const name = `Cut out ${Date.now()}`;
const SCENES = 8;
/** Those cut out; the last one is left for patches. */
const CUT = SCENES - 1;
let project = 0;
let scenes = '';

test.beforeAll(async () => {
  const folder = join(folders.demo, 'cut-out');
  scenes = join(folder, 'scenes');
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(join(folder, 'pictures'), { recursive: true });
  execFileSync('php', ['demo/scenes', scenes, String(SCENES), 'by hand']);
  for (const scene of readdirSync(scenes)) renameSync(join(scenes, scene, 'scene.png'), join(folder, 'pictures', `${scene}.png`));
  const codebook = { skeno: 'codebook/1', classes: [{ key: 'fruit', name: 'Fruit', shapes: ['mask', 'polygon'], shortcut: '1' }] };
  writeFileSync(join(folder, 'codebook.json'), JSON.stringify(codebook));
  project = JSON.parse(artisan('skeno:project', name, `--codebook=${join(folder, 'codebook.json')}`, '--json')).project;
  artisan('skeno:import', name, join(folder, 'pictures'), '--json');
  member(project, 'Ines Okafor', 'manager');
  member(project, 'Mei Castellan', 'labeller');
});
test.beforeEach(() => void freeAll('demo'));

async function open(person: (name: string) => Promise<Page>): Promise<{ mei: Page; hand: StageHand }> {
  if (JSON.parse(sql('demo', `select count(*) as n from assignments where project_id = ${project}`))[0].n === 0) {
    const ines = await person('Ines Okafor');
    await ines.goto(url('demo', `/p/${project}/hand-out`));
    await ines.getByRole('button', { name: 'to which labellers' }).click();
    await ines.getByRole('checkbox', { name: /Mei Castellan/ }).check();
    await ines.getByRole('button', { name: 'Hand out' }).click();
    await expect(ines.getByText(new RegExp(`${SCENES} items`)).first()).toBeVisible();
  }
  const mei = await person('Mei Castellan');
  const [turn] = JSON.parse(
    sql(
      'demo',
      `select id from turns where project_id = ${project} and stage = 'label' and state in ('waiting', 'open') order by id limit 1`
    )
  );
  await mei.goto(url('demo', `/p/${project}/bench/${turn.id}`));
  const hand = new StageHand(mei);
  await hand.shown();
  return { mei, hand };
}
const scene = async (page: Page): Promise<string> => ((await page.locator('.crumbs strong').textContent()) ?? '').replace(/\.png$/, '');
/** IoU of a mask with the truth of a scene, and where a hand would press next, by the core. */
const held = (mask: unknown, of: string): { iou: number; next: { adds: boolean; x: number; y: number } | null } =>
  JSON.parse(
    execFileSync('php', [
      '-r',
      'require "vendor/autoload.php"; require "bench/scenes.php"; $m = Skeno\\Core\\Raster\\Mask::fromFields(Skeno\\Core\\Fields::of(json_decode($argv[1], true))); $t = BenchScenes::mask(BenchScenes::colours($argv[2])); echo json_encode(["iou" => $m->iou($t), "next" => BenchScenes::click($m, $t)]);',
      JSON.stringify(mask),
      join(scenes, of, 'truth.png')
    ]).toString()
  );
const kept = (): { geometry: string; source: string }[] =>
  JSON.parse(
    sql('demo', `select geometry, source from marks where project_id = ${project} and deleted_at is null order by id desc limit 1`)
  );

test('objects are cut out with a box and Enter, one is corrected by a press, and the masks leave as COCO', async ({ person }) => {
  test.setTimeout(150_000);
  const { mei, hand } = await open(person);
  const status = mei.getByRole('status', { name: 'cut-out' });
  const tag = mei.locator('.tag');
  await mei.keyboard.press('1');
  while (!(await mei.getByRole('button', { name: /^E cut-out/ }).count())) await mei.keyboard.press('e');
  const ious = new Map<string, number>();
  let corrected = 0;
  for (let i = 0; i < CUT; i++) {
    await hand.shown();
    const of = await scene(mei);
    const { x, y, width, height } = JSON.parse(readFileSync(join(scenes, of, 'box.json'), 'utf8'));
    await hand.drag(x, y, x + width, y + height);
    await expect(status).toContainText('px by 1 input');
    if (i === 0) {
      // as an outline at first, since that was the shape before; from now on as a mask
      await mei.keyboard.press('f');
      await expect(mei.getByRole('button', { name: /^F as a mask/ })).toBeVisible();
      await expect(status).toContainText('px by 1 input');
      // a press takes away what is there, undo brings it back; then out with Esc, and again
      await mei.keyboard.press('d');
      await expect(tag).toHaveText('take away');
      await hand.click(x + width / 2, y + height / 2);
      await expect(status).toContainText(/by 2\s+inputs/);
      await mei.keyboard.press('Control+z');
      await expect(status).toContainText('px by 1 input');
      const loose = Number((await status.textContent())!.match(/([\d,]+) px/)![1]!.replace(',', ''));
      await mei.mouse.wheel(0, 0);
      await mei.keyboard.down('Shift');
      for (let n = 0; n < 4; n++) await mei.mouse.wheel(0, -100);
      await mei.keyboard.up('Shift');
      await expect
        .poll(async () => Number((await status.textContent())!.match(/([\d,]+) px/)?.[1]!.replace(',', '') ?? 0))
        .toBeGreaterThan(loose);
      await mei.keyboard.press('Escape');
      await expect(status).toHaveCount(0);
      await hand.drag(x, y, x + width, y + height);
      await expect(status).toContainText('px by 1 input');
    }
    await mei.keyboard.press('Enter');
    await expect(hand.marks).toHaveCount(1);
    await hand.saved();
    let [mark] = kept();
    expect(mark!.source).toBe('cutout');
    let found = held(JSON.parse(mark!.geometry), of);
    ious.set(of, found.iou);
    if (found.iou < 0.95 && found.next) {
      // once more, with a press where it lacks something or has too much
      await mei.keyboard.press('Control+z');
      await expect(hand.marks).toHaveCount(0);
      await hand.drag(x, y, x + width, y + height);
      await expect(status).toContainText('px by 1 input');
      await mei.keyboard.press(found.next.adds ? 'a' : 'd');
      await hand.click(found.next.x, found.next.y);
      await expect(status).toContainText('px by 2 inputs');
      await mei.keyboard.press('Enter');
      await expect(hand.marks).toHaveCount(1);
      await hand.saved();
      [mark] = kept();
      const before = found.iou;
      found = held(JSON.parse(mark!.geometry), of);
      console.log(`${of}: ${before.toFixed(3)} by a box, ${found.iou.toFixed(3)} with a press`);
      corrected++;
    }
    await mei.keyboard.press('Escape');
    await hand.ready();
    await mei.keyboard.press('s');
    await expect(mei.locator('.crumbs strong')).not.toHaveText(`${of}.png`);
  }
  await expect
    .poll(() => JSON.parse(sql('demo', `select count(*) as n from items where project_id = ${project} and state = 'accepted'`))[0].n)
    .toBe(CUT);
  const sorted = [...ious.values()].sort((a, b) => a - b);
  const median = sorted[Math.floor(CUT / 2)]!;
  console.log(
    `cut out by two inputs each: median IoU ${median.toFixed(3)}, least ${sorted[0]!.toFixed(3)}; ${corrected} corrected by a press`
  );
  expect(median).toBeGreaterThanOrEqual(0.95);

  // what leaves is what was kept
  const out = join(folders.demo, 'cut-out', 'coco');
  rmSync(out, { recursive: true, force: true });
  artisan('skeno:release', name, '--format=coco', `--out=${out}`, '--states=accepted', '--no-pictures', '--json');
  const coco = JSON.parse(readFileSync(join(out, 'annotations/all.json'), 'utf8')) as {
    images: { id: number; file_name: string }[];
    annotations: { image_id: number; segmentation: { size: number[]; counts: string } }[];
  };
  expect(coco.annotations).toHaveLength(CUT);
  for (const { image_id, segmentation } of coco.annotations) {
    const of = coco.images
      .find((i) => i.id === image_id)!
      .file_name.replace(/^.*\//, '')
      .replace(/\.png$/, '');
    expect(held(segmentation, of).iou, of).toBeGreaterThanOrEqual(Math.min(0.6, ious.get(of)!));
  }
});

test('patches are painted over an object and taken off with the eraser; one that holds two things is split', async ({ person }) => {
  test.setTimeout(60_000);
  const { mei, hand } = await open(person);
  const of = await scene(mei);
  const { x, y, width, height } = JSON.parse(readFileSync(join(scenes, of, 'box.json'), 'utf8'));
  await hand.clear();
  // as a mask, which is the first shape of the class
  while (!(await mei.getByRole('button', { name: /^E mask/ }).count())) await mei.keyboard.press('e');
  await mei.keyboard.press('g');
  const cap = (word: RegExp) => mei.getByRole('button', { name: word });
  await expect(cap(/split/)).toBeEnabled();
  const middle = { x: x + width / 2, y: y + height / 2 };
  await hand.drag(middle.x - width / 8, middle.y, middle.x + width / 8, middle.y);
  await expect(hand.marks).toHaveCount(1);
  await hand.saved();
  const area = () => Number(execFileSync('php', ['-r', 'require "vendor/autoload.php"; echo Skeno\\Core\\Raster\\Mask::fromFields(Skeno\\Core\\Fields::of(json_decode($argv[1], true)))->area();', kept()[0]!.geometry])); // prettier-ignore
  expect(kept()[0]!.source).toBe('patches');
  const painted = area();
  expect(painted).toBeGreaterThan(300);
  // the eraser is of patches too, and says so at the pointer; a split patch gives back a part only
  await mei.keyboard.press('d');
  await expect(mei.locator('.tag')).toHaveText('erase patches');
  await mei.keyboard.press('f');
  await hand.click(middle.x, middle.y);
  await hand.saved();
  expect(area()).toBeLessThan(painted);
  expect(area()).toBeGreaterThan(0);
  await mei.keyboard.press('Control+z');
  await hand.saved();
  expect(area()).toBe(painted);
});
