import { execFileSync } from 'node:child_process';
import { mkdirSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { expect, freeAll, goTo, listZip, member, slider, sql, StageHand, test, unzip } from './fixtures';
import { folders, url } from './place';

/** A clip of which every frame shows its number, and a bar under it that moves 7 px from each to the next. */
const FRAMES = 40;
const folder = join(folders.demo, 'rows-by-hand');
const name = `Rows by hand ${Date.now()}`;
let project = 0;

test.beforeAll(() => {
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(folder, { recursive: true });
  const code =
    'require "vendor/autoload.php"; Skeno\\Core\\Tests\\Clip\\NumberedClip::write($argv[1], (int) $argv[2], array_slice($argv, 3), true);';
  const x264 = ['-c:v', 'libx264', '-preset', 'ultrafast', '-pix_fmt', 'yuv420p', '-bf', '2'];
  execFileSync('php', ['-r', code, '--', join(folder, 'pass.mp4'), String(FRAMES), ...x264]);
});
test.beforeEach(() => void freeAll('demo'));

const type = (page: Page, text: string) => page.keyboard.type(text);
const state = () =>
  JSON.parse(sql('demo', `select t.state from turns t where t.project_id = ${project} and t.stage = 'label' order by id desc limit 1`))[0]
    ?.state;

/** A team follows things through a clip from nothing: describe, bring in, hand out, label, return, fix, accept, look over, release. */
test('from a template to a MOT file', async ({ person }) => {
  test.setTimeout(240_000);
  const ines = await person('Ines Okafor');
  await ines.goto(url('demo', '/projects/new'));
  await ines.getByLabel('name', { exact: true }).click();
  await type(ines, name);
  await ines.getByRole('radio', { name: /Tracks in clips/ }).check();
  await ines.getByRole('button', { name: /Create/ }).click();
  await expect(ines.getByRole('button', { name: /Bin/ }).first()).toBeVisible();
  project = JSON.parse(sql('demo', `select id from projects where name = '${name}'`))[0].id;
  member(project, 'Mei Castellan', 'labeller');
  member(project, 'Tobias Lindqvist', 'reviewer');
  // nets are absent where they can't be seen
  await ines.getByRole('button', { name: 'Net', expanded: false }).first().click();
  await ines.getByRole('combobox', { name: /can’t be seen/ }).selectOption('absent');
  await ines.getByRole('button', { name: 'Save codebook' }).click();
  await expect(ines.getByText('saved as version 2')).toBeVisible();

  // --- bring in by choosing the file; labelling begins when all of it is made
  await ines.getByRole('link', { name: 'Bring in' }).click();
  await ines.getByLabel('choose files').setInputFiles(join(folder, 'pass.mp4'));
  const report = ines.getByRole('region', { name: 'report' });
  await expect(report).toContainText('1 taken', { timeout: 60_000 });
  await ines.getByRole('link', { name: 'Hand out' }).click();
  await ines.getByRole('button', { name: 'to which labellers' }).click();
  await ines.getByRole('checkbox', { name: /Mei Castellan/ }).check();
  await ines.getByRole('button', { name: 'which reviewers' }).click();
  await ines.getByRole('checkbox', { name: /Tobias Lindqvist/ }).check();
  await ines.getByRole('button', { name: 'Hand out 1 item' }).click();
  await expect(ines.getByRole('row', { name: /Mei/ }).first()).toContainText('Tobias');

  // --- label: the bar as a bin by two keys, how the wind is, where the view is blocked
  const mei = await person('Mei Castellan');
  await mei
    .getByRole('region', { name: `my work in ${name}` })
    .getByRole('button', { name: 'Continue' })
    .click();
  const hand = new StageHand(mei);
  await hand.shown();
  // the file is told on the bench
  await expect(mei.getByText(/40 frames · 1\.6 s · 25 a second/).first()).toBeVisible();
  await mei.keyboard.press('1');
  await hand.drag(0, 60, 24, 160);
  await expect(hand.marks).toHaveCount(1);
  // it is drawn some px too far to the left at the end
  await goTo(mei, 39);
  await mei.keyboard.press('q');
  await hand.drag(12, 110, 12 + 7 * 39 - 20, 110);
  await expect(mei.getByRole('button', { name: 'key at frame 40, by hand' })).toBeVisible();
  await mei.keyboard.press('Escape');
  await goTo(mei, 0);
  for (const key of ['r', 'q', 'q', 'Escape', 'Escape']) await mei.keyboard.press(key);
  await goTo(mei, 20);
  for (const key of ['r', 'q', 'w', 'Escape', 'Escape']) await mei.keyboard.press(key);
  // where the view is blocked, by a drag along the lane
  const lane = (await mei.getByRole('list', { name: 'lanes' }).getByRole('listitem').filter({ hasText: 'View blocked' }).boundingBox())!; // prettier-ignore
  const time = (await mei.locator('.lanes canvas').boundingBox())!;
  const over = (frame: number) => time.x + ((frame + 0.5) / FRAMES) * time.width;
  await mei.mouse.move(over(10), lane.y + lane.height / 2);
  await mei.mouse.down();
  await mei.mouse.move(over(12), lane.y + lane.height / 2);
  await mei.mouse.move(over(14), lane.y + lane.height / 2);
  await mei.mouse.up();
  await hand.saved();
  await hand.ready();
  await mei.keyboard.press('s');
  await expect.poll(state).toBe('submitted');

  // --- the reviewer pins the frame and returns it
  const tobias = await person('Tobias Lindqvist');
  const review = () =>
    tobias
      .getByRole('region', { name: `in ${name}` })
      .getByRole('button', { name: 'Review' })
      .click();
  await review();
  const check = new StageHand(tobias);
  await check.ready();
  await goTo(tobias, 39);
  await tobias.keyboard.press('f');
  await check.click(260, 110);
  await expect(tobias.getByLabel(/what is wrong here/)).toBeFocused();
  await type(tobias, 'it has gone on');
  await tobias.keyboard.press('Enter');
  await expect(tobias.getByRole('region', { name: 'what was said' })).toContainText('it has gone on');
  await tobias.keyboard.press('g');
  await type(tobias, 'to the end, please');
  await tobias.getByRole('button', { name: 'Return', exact: true }).click();
  await expect.poll(state).toBe('returned');

  // --- the pin leads to its frame, where the bin is moved on
  await mei.goto(url('demo'));
  await mei.getByRole('link', { name: 'Fix it' }).first().click();
  await hand.ready();
  await mei.getByRole('button', { name: 'it has gone on' }).click();
  await expect(slider(mei)).toHaveAttribute('aria-valuenow', '40');
  await mei.keyboard.press('q');
  await hand.pick(hand.marks.first());
  for (let i = 0; i < 2; i++) await mei.keyboard.press('Shift+ArrowRight');
  await hand.saved();
  await mei.keyboard.press('Escape');
  await hand.ready();
  await mei.keyboard.press('s');
  await expect.poll(state).toBe('submitted');

  // --- what was done about it is said, lies over it as it was, and is accepted
  await tobias.goto(url('demo'));
  await review();
  await check.ready();
  const since = tobias.getByRole('region', { name: 'since it was returned' });
  await expect(since).toContainText('1 changed, 0 new, 0 gone');
  await since.getByRole('button', { name: /changed Bin, a key/ }).click();
  await expect(slider(tobias)).toHaveAttribute('aria-valuenow', '40');
  for (let i = 0; i < 2; i++) await tobias.keyboard.press('Escape');
  const before = tobias.getByRole('toolbar', { name: 'deck' }).getByRole('button', { name: 'before' });
  await expect(before).toHaveAttribute('aria-pressed', 'true');
  await tobias.keyboard.press('a');
  await expect(before).toHaveAttribute('aria-pressed', 'false');
  await check.ready();
  await tobias.keyboard.press('s');
  await expect.poll(() => JSON.parse(sql('demo', `select state from items where project_id = ${project}`))[0].state).toBe('accepted');

  // --- all of it looked over: the track by each of its keys, and what is said stretch by stretch
  await ines.goto(url('demo', `/p/${project}/sheet?class=bin`));
  const objects = ines.getByRole('listbox', { name: 'objects' });
  await expect(objects.getByRole('option')).toHaveCount(1);
  await objects.focus();
  await ines.keyboard.press('f');
  await expect(objects.getByRole('option')).toHaveCount(2);
  await expect(objects.getByRole('option').nth(1)).toContainText('frame 40');
  await ines.keyboard.press('f');
  await expect(objects.getByRole('option')).toHaveCount(1);
  await ines.goto(url('demo', `/p/${project}/sweep?ask=q:wind&answer=`));
  await expect(ines.getByRole('status', { name: 'how many' })).toContainText('2 stretches');
  await ines.getByRole('button', { name: 'Begin' }).click();
  await expect(ines.getByText('frames 1 to 20', { exact: false })).toBeVisible();
  await ines.keyboard.press('q');
  await expect(ines.getByText('frames 21 to 40', { exact: false })).toBeVisible();
  await ines.keyboard.press('q');
  await expect(ines.getByRole('status', { name: 'what was done' })).toContainText('1 answer');
  // calm it was all along: it is one stretch now
  const said = () => JSON.parse(JSON.parse(sql('demo', `select l.stretches from layers l join items i on i.id = l.item_id where i.project_id = ${project} and l.name = 'agreed'`))[0].stretches); // prettier-ignore
  await expect
    .poll(() => said().filter((s: { question?: string }) => s.question === 'wind'))
    .toEqual([{ question: 'wind', first: 0, last: 39, answer: { value: 'calm' } }]);
  await ines.goto(url('demo', `/p/${project}/items?f=${encodeURIComponent('answered:>=100')}`));
  await expect(ines.getByRole('note', { name: /left after: per cent answered/ })).toHaveText('1');

  // --- release, and the frames in the file are those that were labelled
  await ines.getByRole('link', { name: 'Release' }).click();
  await ines.getByLabel(/into train, val and test/).uncheck();
  await ines.getByRole('button', { name: 'Freeze release 1' }).click();
  await ines.getByRole('button', { name: 'write MOT tracks', exact: true }).click();
  await expect(ines.getByText(/no difference/)).toBeVisible({ timeout: 30_000 });
  const [download] = await Promise.all([ines.waitForEvent('download'), ines.getByRole('link', { name: 'download' }).click()]);
  const file = await download.path();
  expect(listZip(file)).toEqual(expect.arrayContaining(['pass/gt/gt.txt', 'pass/seqinfo.ini']));
  const lines = unzip(file, 'pass/gt/gt.txt').trim().split('\n');
  expect(lines.length).toBe(FRAMES);
  lines.forEach((line, k) => {
    const [frame, , left, , width] = line.split(',').map(Number);
    expect([frame, width]).toEqual([k + 1, 24]);
    expect(Math.abs(left! - 1 - 7 * k), `frame ${k + 1}`).toBeLessThan(2);
  });
  // what is said along it leaves as a table
  await ines.getByRole('button', { name: 'write CSV tables', exact: true }).click();
  const links = ines.getByRole('link', { name: 'download' });
  await expect(links).toHaveCount(2, { timeout: 30_000 });
  const tables: string[] = [];
  for (const link of await links.all()) {
    const [table] = await Promise.all([ines.waitForEvent('download'), link.click()]);
    tables.push(await table.path());
  }
  const table = unzip(
    tables.find((t) => listZip(t).includes('stretches.csv'))!,
    'stretches.csv'
  );
  expect(table).toMatch(/blocked.*\b10,14\b|blocked.*\b11,15\b/);
  expect(table.split('\n').filter((line) => /blocked|wind/.test(line)).length).toBe(2);
});

/** How well a track of the demo's row pass (the bin the cart passes to the right of) covers what its maker knows of it. */
test('a bin is followed over 200 frames with at most six inputs', async ({ person }) => {
  test.setTimeout(120_000);
  const path = 'slope/row-21.mp4';
  const { tracks } = JSON.parse(readFileSync(join(folders.demo, `demo/rows/truth/${path}.json`), 'utf8')) as {
    tracks: { class: string; frames: number[][] }[];
  };
  const truth = tracks.filter((t) => t.class === 'bin').map((t) => t.frames)[2]!;
  expect(truth.length).toBeGreaterThanOrEqual(200);
  const turn = JSON.parse(
    sql('demo', `select t.id, t.project_id as project, u.name from turns t join items i on i.id = t.item_id left join assignments a on a.id = t.assignment_id left join station_people p on p.station_id = t.station_id left join users u on u.id = p.user_id where i.path = '${path}' and t.stage = 'label' and t.followed = 0`) // prettier-ignore
  )[0] as { id: number; project: number; name: string };
  const page = await person(turn.name);
  await page.goto(url('demo', `/p/${turn.project}/bench/${turn.id}`));
  const hand = new StageHand(page);
  await hand.shown();
  await page.keyboard.press('e');
  let inputs = 0;
  const did = async (act: Promise<unknown>) => {
    inputs++;
    await act;
  };
  const [x, y, width, height] = truth[0]!;
  await did(page.keyboard.press('1'));
  await did(hand.drag(x!, y!, x! + width!, y! + height!));
  await did(page.keyboard.press('g'));
  await did(page.keyboard.press('d'));
  const said = page.getByText(/followed to frame \d+/);
  await expect(said).toBeVisible({ timeout: 60_000 });
  await hand.saved();
  type Key = { place: number; x: number; y: number; width: number; height: number };
  const keys = JSON.parse(
    sql('demo', `select k.place, json_extract(k.geometry, '$.x') as x, json_extract(k.geometry, '$.y') as y, json_extract(k.geometry, '$.width') as width, json_extract(k.geometry, '$.height') as height from mark_keys k join marks m on m.id = k.mark_id join turns t on t.layer_id = m.layer_id where t.id = ${turn.id} and k.deleted_at is null and m.deleted_at is null order by k.place`) // prettier-ignore
  ) as Key[];
  /** where it lies at a frame: between keys on the straight way, after the last where that has it */
  const at = (frame: number): number[] => {
    const two = keys.findIndex((k) => k.place > frame);
    const [a, b] = two < 0 ? [keys.at(-1)!, keys.at(-1)!] : [keys[two - 1]!, keys[two]!];
    const share = a === b ? 0 : (frame - a.place) / (b.place - a.place);
    return (['x', 'y', 'width', 'height'] as const).map((n) => a[n] + share * (b[n] - a[n]));
  };
  const iou = ([ax, ay, aw, ah]: number[], [bx, by, bw, bh]: number[]) => {
    const common =
      Math.max(0, Math.min(ax! + aw!, bx! + bw!) - Math.max(ax!, bx!)) * Math.max(0, Math.min(ay! + ah!, by! + bh!) - Math.max(ay!, by!));
    return common / (aw! * ah! + bw! * bh! - common);
  };
  const over = truth.slice(0, 200).map((box, frame) => iou(at(frame), box));
  const mean = over.reduce((sum, one) => sum + one, 0) / over.length;
  console.log(`a bin over 200 frames: ${inputs} inputs, ${keys.length} keys, mean IoU ${mean.toFixed(3)}; ${await said.textContent()}`);
  expect(inputs).toBeLessThanOrEqual(6);
  expect(mean).toBeGreaterThanOrEqual(0.85);
  // as it was
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect(hand.marks).toHaveCount(0);
  await hand.saved();
});
