// Work of the main thread per frame on the bench, what an edit costs from its key to the ledger, and what a large picture takes of the tab's
// memory, in Chromium against a demo that is running on the same SKENO_DATA:
//   SKENO_DATA=… node bench/frames.mjs [PART …]        (bin/demo in another terminal); parts: boxes polygons brush large lanes
// Makes projects of its own (3,000 boxes; 300 polygons of 100 points; a picture of 4000 × 3000 for the brush; one of 11500 × 8690; a clip of 20,000 frames with 500 tracks) and
// removes them. With KINDS=1 it says what the work of a step is, in ms.
// A step is one pointer event or key and the frame after it. Its work is what the main thread spends, by Chromium's own trace, on events,
// scripts, style, layout and paint, beside the same on an empty page. Left out are the remote control itself and `Commit`, in which the main
// thread waits for the compositor (which draws in software here): shown as a figure of its own.
import { chromium } from '@playwright/test';
import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const base = process.env.SKENO_URL ?? 'http://127.0.0.1:8000';
const env = { ...process.env, SKENO_DATA: process.env.SKENO_DATA ?? join(process.cwd(), 'storage/skeno') };
const php = (...args) => execFileSync('php', args, { env }).toString();
const folder = mkdtempSync(join(tmpdir(), 'skeno-frames-'));
const codebook = {
  skeno: 'codebook/1',
  classes: [
    ...['box', 'polygon', 'mask'].map((shape) => ({ key: shape, name: shape, shapes: [shape] })),
    { key: 'other', name: 'other', shapes: ['box', 'polygon'] }
  ]
};
const parts = process.argv.slice(2);
const wants = (part) => parts.length === 0 || parts.includes(part);
writeFileSync(join(folder, 'codebook.json'), JSON.stringify(codebook));
const made = [];

function project(what, width, height, annotations) {
  const name = `Frames ${what} ${Date.now()}`;
  const pictures = join(folder, what);
  mkdirSync(pictures);
  const small = Math.min(1, 2000 / width);
  const file = join(pictures, 'p.jpg');
  php(
    '-r',
    `$i = new Imagick; $i->newPseudoImage(${Math.round(width * small)}, ${Math.round(height * small)}, 'plasma:tomato-steelblue'); $i->setImageFormat('jpeg'); $i->writeImage('${file}');`
  );
  if (small < 1)
    php(
      '-d',
      'memory_limit=2G',
      '-r',
      `$s = imagecreatefromjpeg('${file}'); $d = imagecreatetruecolor(${width}, ${height}); imagecopyresized($d, $s, 0, 0, 0, 0, ${width}, ${height}, imagesx($s), imagesy($s)); imagejpeg($d, '${file}', 80);`
    );
  const coco = {
    images: [{ id: 1, file_name: 'p.jpg', width, height }],
    categories: codebook.classes.map((c, i) => ({ id: i + 1, name: c.name })),
    annotations: annotations.map((a, i) => ({ id: i + 1, image_id: 1, ...a }))
  };
  writeFileSync(join(folder, `${what}.json`), JSON.stringify(coco));
  const { project } = JSON.parse(php('artisan', 'skeno:project', name, `--codebook=${join(folder, 'codebook.json')}`, '--json'));
  const labels = annotations.length > 0 ? ['--format=coco', `--labels=${join(folder, `${what}.json`)}`] : [];
  php('artisan', 'skeno:import', name, pictures, ...labels, '--json');
  made.push(project);
  members(project);
  return project;
}
/** Who hands it out below, and to whom. */
function members(project) {
  for (const [person, role] of [
    ['Ines Okafor', 'manager'],
    ['Mei Castellan', 'labeller']
  ])
    php('-r', '$p = new PDO("sqlite:".getenv("SKENO_DATA")."/skeno.sqlite"); $p->exec($argv[1]);', `insert into memberships (project_id, user_id, role, created_at, updated_at) select ${project}, id, '${role}', '2026-01-01', '2026-01-01' from users where name = '${person}'`); // prettier-ignore
}
/** A clip of so many frames, with tracks of so many keys that are there all along, each going its way. */
function clip(frames, tracks, keys) {
  const name = `Frames lanes ${Date.now()}`;
  const clips = join(folder, 'lanes');
  mkdirSync(clips);
  const source = `testsrc=size=192x108:rate=25:duration=${frames / 25}`;
  execFileSync('ffmpeg', ['-nostdin', '-v', 'error', '-f', 'lavfi', '-i', source, '-c:v', 'libx264', '-preset', 'ultrafast', '-pix_fmt', 'yuv420p', join(clips, 'long.mp4')]); // prettier-ignore
  const { project } = JSON.parse(php('artisan', 'skeno:project', name, `--codebook=${join(folder, 'codebook.json')}`, '--json'));
  php('artisan', 'skeno:import', name, clips, '--json');
  made.push(project);
  const code = `[$project, $frames, $tracks, $keys] = array_map(intval(...), array_slice($argv, 1));
    $p = new PDO('sqlite:'.getenv('SKENO_DATA').'/skeno.sqlite'); $p->setAttribute(PDO::ATTR_ERRMODE, PDO::ERRMODE_EXCEPTION);
    [$item, $layer] = $p->query("select i.id, l.id from items i join layers l on l.item_id = i.id where i.project_id = $project and l.name = 'agreed'")->fetch(PDO::FETCH_NUM);
    $p->beginTransaction();
    $mark = $p->prepare("insert into marks (id, project_id, item_id, layer_id, layer, source, class, kind, geometry, answers, flags, place, stretches, revision, created_at, updated_at) values (?, $project, $item, $layer, 'agreed', 'hand', 'box', 'box', ?, '{}', '[]', 0, ?, 1, '2026-01-01', '2026-01-01')");
    $key = $p->prepare("insert into mark_keys (mark_id, place, geometry, answers, hidden, source, size, revision, created_at, updated_at) values (?, ?, ?, '{}', 0, 'hand', 80, 1, '2026-01-01', '2026-01-01')");
    for ($t = 0; $t < $tracks; $t++) {
      $id = sprintf('01TRACK%019d', $project * 1000 + $t);
      $at = fn (int $k): string => json_encode(['x' => ($t * 37 + $k * 11) % 180, 'y' => ($t * 17 + $k * 7) % 98, 'width' => 10, 'height' => 8]);
      $mark->execute([$id, $at(0), json_encode([[0, $frames - 1]])]);
      for ($k = 0; $k < $keys; $k++) $key->execute([$id, intdiv($k * $frames, $keys), $at($k)]);
    }
    $p->exec("update layers set mark_count = $tracks where id = $layer"); $p->exec("update items set mark_count = $tracks where id = $item");
    $p->commit();`;
  php('-r', code, '--', String(project), String(frames), String(tracks), String(keys));
  members(project);
  return project;
}
/** Asks the API as whoever is signed in on a page. */
const call = (page, method, path, body) =>
  page.evaluate(
    async ([m, p, b]) => {
      const token = decodeURIComponent(document.cookie.match(/XSRF-TOKEN=([^;]*)/)[1]);
      const answer = await fetch(`/api/v1${p}`, {
        method: m,
        headers: { 'Content-Type': 'application/json', Accept: 'application/json', 'X-XSRF-TOKEN': token },
        body: JSON.stringify(b)
      });
      if (!answer.ok) throw new Error(`${p}: ${answer.status} ${await answer.text()}`);
      return answer.json();
    },
    [method, path, body]
  );
const signIn = async (page, name) => {
  await page.goto(base);
  await page.getByRole('button', { name }).click();
  await page.getByRole('heading', { name: /^Hello/ }).waitFor();
};

const random = (() => {
  let s = 7;
  return (n) => (s = (s * 48271) % 2147483647) % n;
})();
const boxes = Array.from({ length: 3000 }, () => ({
  category_id: 1,
  bbox: [random(1900), random(1100), 10 + random(80), 10 + random(80)]
}));
const polygons = Array.from({ length: 300 }, () => {
  const [x, y, r] = [60 + random(1800), 60 + random(1080), 20 + random(38)];
  return {
    category_id: 2,
    segmentation: [
      Array.from({ length: 100 }, (_, i) => [x + (r + (i % 3)) * Math.cos(i * 0.0628), y + (r + (i % 3)) * Math.sin(i * 0.0628)]).flat()
    ]
  };
});
const pages = {
  ...(wants('boxes') ? { '3,000 boxes': project('boxes', 2000, 1200, boxes) } : {}),
  ...(wants('polygons') ? { '300 polygons of 100 points': project('polygons', 2000, 1200, polygons) } : {}),
  ...(wants('brush') ? { 'brush on 4000 × 3000': project('brush', 4000, 3000, []) } : {}),
  ...(wants('lanes') ? { '500 tracks over 20,000 frames': clip(20_000, 500, 40) } : {}),
  ...(wants('large') ? { '100 megapixels': project('large', 11500, 8690, []) } : {})
};

const browser = await chromium.launch({
  executablePath: '/usr/bin/chromium',
  args: ['--no-sandbox', '--disable-quic', '--no-first-run', '--disable-background-networking']
});
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
const cdp = await page.context().newCDPSession(page);
// top-level events only: what runs inside them is in their time
const kinds = new Set([
  'EventDispatch',
  'FireAnimationFrame',
  'TimerFire',
  'RunMicrotasks',
  'UpdateLayoutTree',
  'Layout',
  'PrePaint',
  'Paint',
  'Layerize',
  'CompositeLayers',
  'HitTest',
  'IntersectionObserverController::computeIntersections'
]);
let events = [];
cdp.on('Tracing.dataCollected', ({ value }) => events.push(...value));
const frame = () => page.evaluate(() => new Promise((done) => (console.timeStamp('step'), requestAnimationFrame(() => setTimeout(done)))));

async function steps(act, n = 100) {
  events = [];
  await cdp.send('Tracing.start', { categories: 'devtools.timeline,disabled-by-default-devtools.timeline', transferMode: 'ReportEvents' });
  for (let i = 0; i < n; i++) {
    await act(i);
    await frame();
  }
  await page.waitForTimeout(300);
  const complete = new Promise((done) => cdp.once('Tracing.tracingComplete', done));
  await cdp.send('Tracing.end');
  await complete;
  const stamps = events
    .filter((e) => e.name === 'TimeStamp' && e.args?.data?.message === 'step')
    .map((e) => ({ ts: e.ts, tid: e.tid, pid: e.pid }));
  const main = stamps[0];
  const spent = events
    .filter((e) => e.ph === 'X' && kinds.has(e.name) && e.pid === main.pid && e.tid === main.tid)
    .sort((p, q) => p.ts - q.ts || q.dur - p.dur);
  const times = new Array(n).fill(0);
  let until = 0;
  const sums = new Map();
  for (const e of spent) {
    if (e.ts < until) continue;
    until = e.ts + (e.dur ?? 0);
    const kind = e.name === 'EventDispatch' ? e.args?.data?.type : e.name;
    sums.set(kind, (sums.get(kind) ?? 0) + (e.dur ?? 0) / 1000 / n);
    // from one step's stamp to the next: the frame of this step and the event of the next
    let i = stamps.findIndex((s) => s.ts > e.ts) - 1;
    if (i < -1) i = n - 1;
    if (i >= 0) times[i] += (e.dur ?? 0) / 1000;
  }
  if (process.env.KINDS) console.log([...sums].sort((p, q) => q[1] - p[1]).slice(0, 9).map(([k, ms]) => `${k} ${ms.toFixed(2)}`).join(', ')); // prettier-ignore
  const waited =
    events
      .filter((e) => e.ph === 'X' && e.name === 'Commit' && e.pid === main.pid && e.tid === main.tid)
      .reduce((sum, e) => sum + (e.dur ?? 0), 0) /
    1000 /
    n;
  const sorted = times.slice(1, -1).sort((p, q) => p - q);
  return [sorted[Math.floor(sorted.length / 2)], sorted[Math.floor(sorted.length * 0.95)], waited];
}
const show = (what, [p50, p95, waited], [e50, e95], aim = 8) =>
  console.log(
    `${what.padEnd(64)} p50 ${p50.toFixed(1)}  p95 ${p95.toFixed(1)} ms   (an empty page: ${e50.toFixed(1)} / ${e95.toFixed(1)}; waiting for the compositor ${waited.toFixed(1)} a frame); aim ${aim} ms`
  );

/** What the tab takes, in MB: the renderer's own pages and its part of those it shares. */
const browserCdp = await browser.newBrowserCDPSession();
async function memory() {
  await cdp.send('HeapProfiler.collectGarbage').catch(() => undefined);
  const { processInfo } = await browserCdp.send('SystemInfo.getProcessInfo');
  const pss = (pid) => Number(/^Pss:\s+(\d+)/m.exec(readFileSync(`/proc/${pid}/smaps_rollup`, 'utf8'))[1]) / 1024;
  const of = (type) => processInfo.filter((p) => p.type === type).map((p) => pss(p.id));
  return { tab: Math.max(...of('renderer')), gpu: Math.max(0, ...of('GPU')) };
}

await page.setContent('<div style="width:1280px;height:800px"></div>');
const move = (i) => page.mouse.move(300 + (i % 40) * 8, 250 + (i % 30) * 6);
const empty = await steps(move);
const manager = await (await browser.newContext()).newPage();
await signIn(manager, 'Ines Okafor');
await signIn(page, 'Mei Castellan');
const mei = (await page.evaluate(() => fetch('/api/v1/session', { headers: { Accept: 'application/json' } }).then((r) => r.json()))).user
  .id;
const paths = {};
for (const [what, project] of Object.entries(pages)) {
  const lot = { pool: 'all', again: 'on_top', choose: 'all', labellers: [mei], reviewers: [], note: '', priority: 0 };
  await call(manager, 'POST', `/projects/${project}/assignments`, /^[35]/.test(what) && !what.startsWith('100') ? lot : { ...lot, pool: 'new', again: null });
  const { packet } = await call(page, 'POST', `/projects/${project}/next`, { purpose: 'label' });
  paths[what] = `/p/${project}/bench/${packet.turn.id}`;
}
await manager.context().close();
for (const [what, path] of Object.entries(paths)) {
  const large = what.startsWith('100');
  // what a worker makes of it has to be there
  if (large) await page.waitForTimeout(25_000);
  const before = large ? await memory() : null;
  const began = Date.now();
  await page.goto(base + path);
  await page.locator('#stage-view', { hasText: 'shown' }).waitFor({ state: 'attached', timeout: 120_000 });
  if (large) console.log(`${`${what}: opened`.padEnd(64)} ${Date.now() - began} ms`);
  await page.waitForTimeout(800);
  const at = async (x, y) => {
    const [s, l, t] = [...(await page.locator('#stage-view').textContent()).matchAll(/-?\d+(?:\.\d+)?/g)].map((m) => Number(m[0]));
    const b = await page.getByRole('application').boundingBox();
    return [b.x + l + x * s, b.y + t + y * s];
  };
  if (what.startsWith('500')) {
    await page.keyboard.press('q');
    show(`${what}: a step on, all of them redrawn`, await steps(() => page.keyboard.press('x')), empty);
    const lanes = await page.locator('.lanes').first().boundingBox();
    const over = (i) => page.mouse.move(lanes.x + 300 + (i % 60) * 9, lanes.y + 40);
    await over(0);
    show(`${what}: the time zoomed by the wheel`, await steps((i) => page.mouse.wheel(0, i % 20 < 10 ? -120 : 120)), empty);
    await page.mouse.move(lanes.x + 300, lanes.y + 8);
    await page.mouse.down();
    show(`${what}: the playhead drawn along`, await steps((i) => page.mouse.move(lanes.x + 300 + (i % 60) * 9, lanes.y + 8)), empty);
    await page.mouse.up();
    await page.keyboard.press('w');
    show(`${what}: played`, await steps(() => page.waitForTimeout(20)), empty);
    continue;
  }
  if (large) {
    let [most, rise] = [0, 0];
    const note = async () => {
      const now = await memory();
      most = Math.max(most, now.tab);
      rise = Math.max(rise, now.tab - before.tab + now.gpu - before.gpu);
    };
    await note();
    await page.keyboard.press('w');
    await page.mouse.move(640, 400);
    const scale = async () => Number((await page.locator('#stage-view').textContent()).match(/[\d.]+/)[0]);
    while ((await scale()) < 1) {
      await page.mouse.wheel(0, -120);
      await frame();
    }
    await page.waitForTimeout(1500);
    await note();
    for (let from = 0; from < 8; from++) {
      await page.mouse.move(900, 600);
      await page.mouse.down();
      show(`${what}: panning at full size`, await steps((i) => page.mouse.move(900 - (i + 1) * 20, 600 - (i + 1) * 12), 40), empty);
      await page.mouse.up();
      await page.waitForTimeout(700);
      await note();
    }
    await page.keyboard.press('3');
    await page.keyboard.press('e');
    for (let i = 0; i < 12; i++) await page.keyboard.press('x');
    for (let stroke = 0; stroke < 3; stroke++) {
      await page.mouse.move(300, 200 + stroke * 90);
      await page.mouse.down();
      show(`${what}: a stroke of the brush`, await steps((i) => page.mouse.move(300 + i * 12, 200 + stroke * 90 + (i % 5) * 9), 40), empty);
      await page.mouse.up();
      await page.waitForTimeout(300);
      await note();
    }
    const tiles = await page.evaluate(
      () => performance.getEntriesByType('resource').filter((e) => e.name.includes('/tiles/') && e.decodedBodySize > 0).length
    );
    await page.keyboard.press('Escape');
    await page.keyboard.press('z');
    await page.waitForTimeout(1500);
    await note();
    console.log(
      `${`${what}: most the tab took`.padEnd(64)} ${most.toFixed(0)} MB, ${rise.toFixed(0)} MB more than My work, with the process that draws; ${tiles} tiles had come; aim 300 MB`
    );
    continue;
  }
  if (what.startsWith('brush')) {
    await page.mouse.move(300, 250);
    await page.keyboard.press('3');
    await page.keyboard.press('e');
    for (let i = 0; i < 12; i++) await page.keyboard.press('x');
    await page.mouse.down();
    show(what, await steps(move), empty);
    // whether the stroke is on the screen in the frame of its event: a pixel under the pointer before and after one frame
    const changed = await page.evaluate(
      () =>
        new Promise((done) => {
          // on whichever of the canvases strokes are drawn
          const canvases = [...document.querySelectorAll('.stage canvas')].slice(1);
          const stage = document.querySelector('.stage');
          const r = stage.getBoundingClientRect();
          const read = () => canvases.reduce((sum, c) => sum + (c.getContext('2d').getImageData(500, 500, 1, 1).data[3] ?? 0), 0);
          const before = read();
          stage.dispatchEvent(
            new PointerEvent('pointermove', { clientX: r.left + 500, clientY: r.top + 500, buttons: 1, pointerId: 1, bubbles: true })
          );
          requestAnimationFrame(() => done([before, read()]));
        })
    );
    console.log(`${'a stroke is drawn in the frame of its event'.padEnd(64)} ${changed[1] > changed[0] ? 'yes' : `no (${changed})`}`);
    await page.mouse.up();
    continue;
  }
  await page.keyboard.press('w');
  await page.mouse.move(400, 300);
  await page.mouse.down();
  show(`${what}: panning`, await steps(move), empty);
  await page.mouse.up();
  await page.keyboard.press('z');
  show(`${what}: zooming`, await steps((i) => page.mouse.wheel(0, i % 20 < 10 ? -40 : 40)), empty);
  await page.keyboard.press('z');
  await page.keyboard.press('q');
  const centre = await page.evaluate(() => {
    const said = document.querySelector('[role=list][aria-label=marks] [role=listitem]').getAttribute('aria-label');
    return said
      .match(/at ([\d.]+), ([\d.]+), ([\d.]+) × ([\d.]+)/)
      .slice(1)
      .map(Number);
  });
  await page.getByRole('list', { name: 'marks' }).getByRole('button').first().click();
  await page.mouse.move(...(await at(centre[0] + centre[2] / 2, centre[1] + centre[3] / 2)));
  await page.mouse.down();
  show(`${what}: dragging one`, await steps(move), empty);
  await page.mouse.up();
  // the mark in hand is moved by a key, and given the other class and back: there it leaves one group of the ledger for another
  await page.evaluate(() => {
    const ledger = document.querySelector('[aria-label=ledger]');
    window.took = [];
    let at = 0;
    // a mark that is moved by a key is changed when the key is let go
    for (const type of ['keydown', 'keyup']) addEventListener(type, () => (at = performance.now()), true);
    new MutationObserver(() => at > 0 && (window.took.push(performance.now() - at), (at = 0))).observe(ledger, {
      subtree: true,
      childList: true,
      attributes: true,
      characterData: true
    });
  });
  // the server, which has the same two cores, is not asked meanwhile
  await page.context().setOffline(true);
  const own = what.includes('boxes') ? '1' : '2';
  for (const [edit, act] of [
    ['moved by a key', () => page.keyboard.press('ArrowRight')],
    ['given another class', (i) => page.keyboard.press(i % 2 ? own : '4')]
  ]) {
    await page.evaluate(() => (window.took.length = 0));
    const frames = await steps(act, 60);
    const took = (await page.evaluate(() => window.took)).sort((p, q) => p - q);
    console.log(
      `${`${what}: ${edit}, from the key to the ledger`.padEnd(64)} p50 ${took[took.length >> 1]?.toFixed(1)}  p95 ${took[Math.floor(took.length * 0.95)]?.toFixed(1)} ms (${took.length} of 60); aim 16 ms`
    );
    show(`${what}: ${edit}, with its frame`, frames, empty, 16);
  }
  await page.context().setOffline(false);
  // all marks in hand, an arrow held
  await page.keyboard.press('Escape');
  await page.keyboard.press('z');
  await page.waitForTimeout(400);
  const [x1, y1] = await at(-40, -40);
  const [x2, y2] = await at(2040, 1240);
  const b = await page.getByRole('application').boundingBox();
  await page.mouse.move(Math.max(b.x + 2, x1), Math.max(b.y + 2, y1));
  await page.mouse.down();
  await page.mouse.move(Math.min(b.x + b.width - 2, x2), Math.min(b.y + b.height - 2, y2), { steps: 4 });
  await page.mouse.up();
  await page.waitForTimeout(600);
  const sent = [];
  page.on('response', async (r) => {
    if (/\/edits$/.test(r.url())) sent.push((await r.json().catch(() => null))?.results?.length ?? 0);
  });
  await page.waitForTimeout(3000);
  sent.length = 0;
  await page.keyboard.down('ArrowRight');
  const held = await steps(() => page.keyboard.down('ArrowRight'), 30);
  await page.keyboard.up('ArrowRight');
  await page.waitForTimeout(8000);
  show(`${what}: an arrow held for 30 repeats, all in hand`, held, empty, '–');
  console.log(`${''.padEnd(64)} ${sent.reduce((sum, n) => sum + n, 0)} edits in ${sent.length} requests`);
  page.removeAllListeners('response');
}
await browser.close();
for (const id of made)
  php(
    '-r',
    '$p = new PDO("sqlite:".getenv("SKENO_DATA")."/skeno.sqlite"); $p->exec("pragma foreign_keys = on"); $p->exec("delete from projects where id = ".(int) $argv[1]);',
    String(id)
  );
rmSync(folder, { recursive: true, force: true });
