import { execFileSync } from 'node:child_process';
import { mkdirSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { artisan, expect, freeAll, goTo, member, slider, sql, StageHand, test } from './fixtures';
import { folders, url } from './place';

/** Clips of which every frame shows its number, and a bar that moves 7 px from each to the next. */
const FRAMES = 40;
const folder = join(folders.demo, 'numbered');
const codebook = {
  skeno: 'codebook/1',
  classes: [
    { key: 'bin', name: 'Bin', shapes: ['box'], shortcut: '1' },
    { key: 'net', name: 'Net', shapes: ['polygon'], shortcut: '2' }
  ],
  attributes: [
    {
      key: 'wind',
      name: 'Wind',
      type: 'one',
      scope: 'frame',
      required: true,
      options: [
        { key: 'calm', name: 'Calm' },
        { key: 'gust', name: 'Gust' }
      ]
    }
  ],
  tags: [{ key: 'blocked', name: 'View blocked', scope: 'stretch' }]
};
const name = `Numbered clips ${Date.now()}`;
let project = 0;

/** Makes numbered clips by the core's own hand. */
function write(file: string, ...out: string[]): void {
  const code =
    'require "vendor/autoload.php"; Skeno\\Core\\Tests\\Clip\\NumberedClip::write($argv[1], (int) $argv[2], array_slice($argv, 3), true);';
  execFileSync('php', ['-r', code, '--', file, String(FRAMES), ...out]);
}
test.beforeAll(() => {
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(join(folder, 'clips'), { recursive: true });
  const x264 = ['-c:v', 'libx264', '-preset', 'ultrafast', '-pix_fmt', 'yuv420p', '-bf', '2'];
  write(join(folder, 'clips/a.mp4'), ...x264);
  write(join(folder, 'clips/b.webm'), '-c:v', 'libvpx', '-b:v', '1M', '-deadline', 'realtime');
  write(join(folder, 'clips/c.mkv'), ...x264, '-vf', "setpts='(N+4*floor(N/10))/25/TB'", '-fps_mode', 'vfr');
  write(join(folder, 'clips/d.avi'), '-c:v', 'mpeg4', '-q:v', '3', '-bf', '2');
  execFileSync('php', ['-r', 'file_put_contents($argv[1], $argv[2]);', join(folder, 'codebook.json'), JSON.stringify(codebook)]);
  project = JSON.parse(artisan('skeno:project', name, `--codebook=${join(folder, 'codebook.json')}`, '--json')).project;
  artisan('skeno:import', name, join(folder, 'clips'), '--json');
  member(project, 'Ines Okafor', 'manager');
  member(project, 'Mei Castellan', 'labeller');
  member(project, 'Tobias Lindqvist', 'reviewer');
});
test.beforeEach(() => void freeAll('demo'));

/** What lies on the stage, read off its pixels: the number of the frame, and where the left edge of the box is in px of the clip. */
const look = (): { frame: number; left: number | null } => {
  const stage = document.querySelector('[role="application"]')!;
  const [scale, x, y] = [...document.getElementById('stage-view')!.textContent!.matchAll(/-?\d+(?:\.\d+)?/g)].map((m) => Number(m[0]));
  const box = stage.getBoundingClientRect();
  const [ground, marks] = [...stage.querySelectorAll('canvas')] as HTMLCanvasElement[];
  // read off a copy, which the browser keeps where it can be read
  const copy = document.createElement('canvas').getContext('2d', { willReadFrequently: true })!;
  const pixels = (canvas: HTMLCanvasElement, px: number, py: number, w: number) => {
    const r = canvas.getBoundingClientRect();
    const k = canvas.width / r.width;
    copy.canvas.width = Math.max(1, Math.round(w * scale! * k));
    copy.canvas.height = 1;
    copy.drawImage(canvas, -Math.round((box.left + x! + px * scale! - r.left) * k), -Math.round((box.top + y! + py * scale! - r.top) * k));
    return copy.getImageData(0, 0, copy.canvas.width, 1).data;
  };
  let frame = 0;
  for (let bit = 0; bit < 12; bit++) {
    const one = pixels(ground!, bit * 20 + 10, 10, 0)[0]! > 120;
    if (one === pixels(ground!, bit * 20 + 10, 30, 0)[0]! > 120) return { frame: -1, left: null };
    frame = frame * 2 + (one ? 1 : 0);
  }
  // a row through the box: the first px of its line
  const row = pixels(marks!, -4, 110, 328);
  let left: number | null = null;
  for (let i = 0; i < row.length / 4 && left === null; i++)
    if (row[4 * i + 3]! > 200 && row[4 * i]! > 150) left = (i / (row.length / 4)) * 328 - 4;
  return { frame, left };
};
const seen = (page: Page) => page.evaluate(look);
/** What lies there in one picture of the screen after the other, until a frame is reached. */
const watched = (page: Page, until: number): Promise<ReturnType<typeof look>[]> =>
  page.evaluate(`new Promise((done) => {
    const look = ${look.toString()};
    const all = [];
    const next = () => {
      all.push(look());
      if (all.at(-1).frame >= ${until} || all.length === 600) done(all);
      else requestAnimationFrame(next);
    };
    next();
  })`);

/** Hands all clips to Mei once, and opens one of them. */
async function open(
  person: (name: string) => Promise<Page>,
  path: string,
  before?: (page: Page) => Promise<void>
): Promise<{ mei: Page; hand: StageHand; turn: number }> {
  if (JSON.parse(sql('demo', `select count(*) as n from assignments where project_id = ${project}`))[0].n === 0) {
    const ines = await person('Ines Okafor');
    await ines.goto(url('demo', `/p/${project}/hand-out`));
    await ines.getByRole('button', { name: 'to which labellers' }).click();
    await ines.getByRole('checkbox', { name: /Mei Castellan/ }).check();
    await ines.getByRole('button', { name: 'which reviewers' }).click();
    await ines.getByRole('checkbox', { name: /Tobias Lindqvist/ }).check();
    await ines.getByRole('button', { name: 'Hand out' }).click();
    await expect(ines.getByText(/4 items/).first()).toBeVisible();
  }
  const mei = await person('Mei Castellan');
  await before?.(mei);
  const turn = JSON.parse(
    sql(
      'demo',
      `select t.id from turns t join items i on i.id = t.item_id where t.project_id = ${project} and i.path = '${path}' and t.stage = 'label' and t.followed = 0`
    )
  )[0].id;
  await mei.goto(url('demo', `/p/${project}/bench/${turn}`));
  const hand = new StageHand(mei);
  await hand.shown();
  return { mei, hand, turn };
}

for (const [path, how] of [
  ['a.mp4', 'decoded'],
  ['b.webm', 'decoded'],
  ['c.mkv', 'decoded'],
  ['d.avi', 'decoded'],
  ['a.mp4', 'sought in a video, where the browser lends no decoder']
] as const)
  test(`the frame on the stage is the one that is told: ${path}, ${how}`, async ({ person }) => {
    const { mei } = await open(person, path, async (page) => {
      if (how !== 'decoded') await page.addInitScript(() => Reflect.deleteProperty(globalThis, 'VideoDecoder'));
    });
    await expect.poll(async () => (await seen(mei)).frame).toBe(0);
    // presses on the time, here and there, and steps from there
    const lanes = (await mei.locator('.lanes canvas').boundingBox())!;
    let random = 7;
    const many = path === 'a.mp4' && how === 'decoded';
    if (many) test.setTimeout(240_000);
    for (let i = 0; i < (many ? 300 : 12); i++) {
      random = (random * 16807) % 2147483647;
      const frame = random % FRAMES;
      await mei.mouse.click(lanes.x + ((frame + 0.5) / FRAMES) * lanes.width, lanes.y + 8);
      await expect(slider(mei)).toHaveAttribute('aria-valuenow', String(frame + 1));
      await expect.poll(async () => (await seen(mei)).frame, { message: `jump ${i} to ${frame}` }).toBe(frame);
      if (i >= 40) continue;
      const by = random % 3 === 0 ? -1 : 1;
      const next = Math.max(0, Math.min(FRAMES - 1, frame + by));
      await mei.keyboard.press(by < 0 ? 'z' : 'x');
      await expect(slider(mei)).toHaveAttribute('aria-valuenow', String(next + 1));
      await expect.poll(async () => (await seen(mei)).frame, { message: `step ${by} from ${frame}` }).toBe(next);
    }
    await goTo(mei, 17);
    await expect.poll(async () => (await seen(mei)).frame).toBe(17);
  });

test('a track is drawn with few inputs, keeps to the picture while playing, is ended, checked, and leaves exact to the frame', async ({
  person
}) => {
  const { mei, hand, turn } = await open(person, 'a.mp4');
  await hand.clear();
  // the bar is 24 px wide and lies under the number
  await hand.drag(0, 60, 24, 160);
  await expect(hand.marks).toHaveCount(1);
  await goTo(mei, 30);
  await mei.keyboard.press('q');
  await hand.drag(12, 110, 222, 110);
  await expect(mei.getByRole('button', { name: 'key at frame 31, by hand' })).toBeVisible();
  // played: in every picture the box lies on the bar
  for (const speed of [1, 5]) {
    await goTo(mei, 0);
    if (speed === 5) {
      await mei.keyboard.press('t');
      for (let i = 0; i < 5; i++) await mei.keyboard.press('t');
      await mei.keyboard.press('Escape');
    }
    await mei.keyboard.press('w');
    const played = (await watched(mei, 30)).filter((s) => s.frame > 0 && s.frame <= 30);
    expect(played.length, `at ${speed}x`).toBeGreaterThan(speed === 1 ? 5 : 0);
    for (const { frame, left } of played) expect(Math.abs(left! - 7 * frame), `frame ${frame} at ${speed}x`).toBeLessThan(3);
    await expect(slider(mei)).toHaveAttribute('aria-valuenow', String(FRAMES));
  }
  // hidden from frame 11 to 15, ended at frame 36
  const page = async (frame: number, letter: string) => {
    await goTo(mei, frame);
    await mei.keyboard.press('f');
    await mei.keyboard.press(letter);
  };
  await page(10, 'f');
  await page(15, 'f');
  await page(35, 'd');
  // how the wind is, from the first frame to the last
  await mei.keyboard.press('Escape');
  await goTo(mei, 0);
  for (const key of ['r', 'q', 'q', 'Escape', 'Escape']) await mei.keyboard.press(key);
  await hand.saved();
  await mei.keyboard.press('s');
  await expect.poll(() => JSON.parse(sql('demo', `select state from turns where id = ${turn}`))[0].state).toBe('submitted');

  const tobias = await person('Tobias Lindqvist');
  await tobias.goto(url('demo', '/'));
  const decision = JSON.parse(
    sql('demo', `select r.id from turns r join turns l on l.item_id = r.item_id where l.id = ${turn} and r.stage = 'review'`)
  )[0].id;
  await tobias.goto(url('demo', `/p/${project}/bench/${decision}`));
  const judged = new StageHand(tobias);
  await judged.shown();
  if (
    await tobias
      .getByRole('button', { name: /Review it/ })
      .isVisible()
      .catch(() => false)
  )
    await tobias.getByRole('button', { name: /Review it/ }).click();
  await expect(judged.marks).toHaveCount(1);
  const out = join(folders.demo, `mot-${Date.now()}`);
  artisan('skeno:release', name, '--format=mot', `--out=${out}`, '--states=any', '--no-pictures', '--json');
  const lines = readFileSync(join(out, 'a/gt/gt.txt'), 'utf8')
    .trim()
    .split('\n')
    .map((l) => l.split(',').map(Number));
  expect(lines.map((l) => l[0])).toEqual(Array.from({ length: 36 }, (_, i) => i + 1));
  for (const [frame, , left, top, width, height, , , visible] of lines) {
    // where the bar stands still after frame 31, since its last key is there
    expect(Math.abs(left! - 1 - 7 * Math.min(30, frame! - 1)), `frame ${frame}`).toBeLessThan(1.5);
    expect([Math.round(top!), Math.round(width!), Math.round(height!), visible]).toEqual([
      61,
      24,
      100,
      frame! >= 11 && frame! <= 15 ? 0 : 1
    ]);
  }
});

test('keys made offline arrive after a reload, and a key somebody else has moved is asked about', async ({ person }) => {
  const { mei, hand, turn } = await open(person, 'b.webm');
  await hand.clear();
  await hand.drag(100, 60, 140, 100);
  await hand.saved();
  const mark = JSON.parse(
    sql('demo', `select m.id from marks m join turns t on t.layer_id = m.layer_id where t.id = ${turn} and m.deleted_at is null`)
  )[0].id;
  await goTo(mei, 10);
  await mei.keyboard.press('q');
  const deaf = (url: URL) => url.pathname.includes('/edits');
  await mei.route(deaf, (r) => r.abort());
  await hand.drag(120, 80, 160, 80);
  await goTo(mei, 20);
  await hand.drag(160, 80, 200, 80);
  await expect(mei.getByRole('status', { name: 'saved state' })).not.toHaveText(/● saved/);
  await mei.reload();
  await hand.shown();
  await hand.pick(hand.marks.first());
  await expect(mei.getByRole('group', { name: 'keys' }).getByRole('button')).toHaveCount(3);
  await mei.unroute(deaf);
  await hand.saved();
  const keys = () =>
    JSON.parse(
      sql(
        'demo',
        `select place, json_extract(geometry, '$.x') as x from mark_keys where mark_id = '${mark}' and deleted_at is null order by place`
      )
    ).map((k: { place: number; x: number }) => [k.place, Math.round(k.x)]);
  expect(keys()).toEqual([
    [0, 100],
    [10, 140],
    [20, 180]
  ]);
  // another hand: on another key nothing is heard of it, on the same key it is asked
  const other = await mei.context().newPage();
  await other.goto(mei.url());
  const second = new StageHand(other);
  await second.shown();
  await second.pick(second.marks.first());
  await goTo(other, 20);
  await other.keyboard.press('q');
  await second.drag(200, 80, 210, 80);
  await second.saved();
  await goTo(mei, 10);
  await hand.pick(hand.marks.first());
  await mei.keyboard.press('q');
  await hand.drag(160, 80, 165, 80);
  await hand.saved();
  expect(keys()).toEqual([
    [0, 100],
    [10, 145],
    [20, 190]
  ]);
  await expect(mei.getByText(/at 21/)).toHaveCount(0);
  await goTo(mei, 20);
  await hand.drag(200, 80, 230, 80);
  await expect(mei.getByText(/Bin at 21/)).toBeVisible();
  expect(keys()[2]).toEqual([20, 190]);
  await other.close();
});

test('an object is followed by its looks, an answer switches, a tag holds from here to there, and a gap is led to', async ({ person }) => {
  const { mei, hand, turn } = await open(person, 'd.avi');
  await hand.clear();
  // the bar with ground on both sides
  await goTo(mei, 4);
  await hand.drag(18, 50, 62, 172);
  await mei.keyboard.press('q');
  await hand.pick(hand.marks.first());
  await mei.keyboard.press('g');
  await mei.keyboard.press('d');
  await expect(mei.getByText(/followed to frame \d+/)).toBeVisible({ timeout: 30_000 });
  await hand.saved();
  const keys = JSON.parse(
    sql(
      'demo',
      `select k.place, k.source, json_extract(k.geometry, '$.x') as x from mark_keys k join marks m on m.id = k.mark_id join turns t on t.layer_id = m.layer_id where t.id = ${turn} and k.deleted_at is null and m.deleted_at is null order by k.place`
    )
  ) as { place: number; source: string; x: number }[];
  expect(keys.length).toBeLessThanOrEqual(6);
  expect(keys.at(-1)!.place).toBeGreaterThan(30);
  for (const k of keys) expect(Math.abs(k.x - (18 + 7 * (k.place - 4))), `frame ${k.place}`).toBeLessThan(3);
  expect(keys.map((k) => k.source)).toEqual(['hand', ...keys.slice(1).map(() => 'followed')]);
  // one step takes it back
  await mei.keyboard.press('Control+z');
  await expect(mei.getByRole('group', { name: 'keys' }).getByRole('button')).toHaveCount(1);

  // what is said along it
  await mei.keyboard.press('Escape');
  await goTo(mei, 10);
  await mei.keyboard.press('r');
  await mei.keyboard.press('q');
  await mei.keyboard.press('q');
  for (let i = 0; i < 5; i++) await mei.keyboard.press('ArrowRight');
  await mei.keyboard.press('w');
  await mei.keyboard.press('Escape');
  await mei.keyboard.press('a');
  for (let i = 0; i < 3; i++) {
    await mei.keyboard.press('Escape');
    await goTo(mei, 18 + i);
    await mei.keyboard.press('r');
    if (i === 2) await mei.keyboard.press('a');
  }
  await hand.saved();
  const said = () =>
    JSON.parse(
      JSON.parse(sql('demo', `select l.stretches from layers l join turns t on t.layer_id = l.id where t.id = ${turn}`))[0].stretches
    );
  expect(said()).toEqual([
    { question: 'wind', first: 10, last: 14, answer: { value: 'calm' } },
    { question: 'wind', first: 15, last: 39, answer: { value: 'gust' } },
    { tag: 'blocked', first: 15, last: 20 }
  ]);
  await mei.keyboard.press('Escape');
  await mei.getByRole('button', { name: /Wind: gap/ }).click();
  await expect(slider(mei)).toHaveAttribute('aria-valuenow', '1');
  await mei.keyboard.press('q');
  await expect(mei.getByRole('button', { name: /Wind: gap/ })).toHaveCount(0);
});
