// Work of the main thread per frame on the bench, in Chromium against a demo that is running on the same SKENO_DATA:
//   SKENO_DATA=… node bench/frames.mjs        (bin/demo in another terminal)
// Makes three projects of its own (3,000 boxes; 300 polygons of 100 points; a picture of 4000 × 3000 for the brush) and removes them.
// A step is one pointer event and the frame after it. Its work is what the main thread spends, by Chromium's own trace, on events, scripts,
// style, layout and paint, beside the same on an empty page. Left out are the remote control itself and `Commit`, in which the main thread
// waits for the compositor (which draws in software here): shown as a figure of its own.
import { chromium } from '@playwright/test';
import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const base = process.env.SKENO_URL ?? 'http://127.0.0.1:8000';
const env = { ...process.env, SKENO_DATA: process.env.SKENO_DATA ?? join(process.cwd(), 'storage/skeno') };
const php = (...args) => execFileSync('php', args, { env }).toString();
const folder = mkdtempSync(join(tmpdir(), 'skeno-frames-'));
const codebook = { skeno: 'codebook/1', classes: ['box', 'polygon', 'mask'].map((shape) => ({ key: shape, name: shape, shapes: [shape] })) };
writeFileSync(join(folder, 'codebook.json'), JSON.stringify(codebook));
const made = [];

function project(what, width, height, annotations) {
  const name = `Frames ${what} ${Date.now()}`;
  const pictures = join(folder, what);
  mkdirSync(pictures);
  php('-r', `$i = new Imagick; $i->newPseudoImage(${width}, ${height}, 'plasma:tomato-steelblue'); $i->setImageFormat('jpeg'); $i->writeImage('${join(pictures, 'p.jpg')}');`);
  const coco = { images: [{ id: 1, file_name: 'p.jpg', width, height }], categories: codebook.classes.map((c, i) => ({ id: i + 1, name: c.name })), annotations: annotations.map((a, i) => ({ id: i + 1, image_id: 1, ...a })) };
  writeFileSync(join(folder, `${what}.json`), JSON.stringify(coco));
  const { project } = JSON.parse(php('artisan', 'skeno:project', name, `--codebook=${join(folder, 'codebook.json')}`, '--json'));
  const labels = annotations.length > 0 ? ['--format=coco', `--labels=${join(folder, `${what}.json`)}`] : [];
  php('artisan', 'skeno:import', name, pictures, ...labels, '--json');
  made.push(project);
  // opened for the owner as a turn of their own
  const sql = (statement) => php('-r', '$p = new PDO("sqlite:".getenv("SKENO_DATA")."/skeno.sqlite"); $s = $p->query($argv[1]); echo json_encode($s ? $s->fetchAll(PDO::FETCH_ASSOC) : null);', statement);
  const owner = JSON.parse(sql('select id from users order by id limit 1'))[0].id;
  sql(`insert into memberships (project_id, user_id, role, created_at, updated_at) values (${project}, ${owner}, 'manager', '2026-01-01', '2026-01-01')`);
  const item = JSON.parse(sql(`select id from items where project_id = ${project}`))[0].id;
  sql(`insert into turns (project_id, item_id, stage, pass, round, layer, state, user_id, created_at, updated_at) values (${project}, ${item}, 'label', 2, 1, 'agreed', 'waiting', ${owner}, '2026-01-01', '2026-01-01')`);
  const turn = JSON.parse(sql(`select max(id) as id from turns where item_id = ${item}`))[0].id;
  return `/p/${project}/bench/${turn}`;
}

const random = (() => {
  let s = 7;
  return (n) => (s = (s * 48271) % 2147483647) % n;
})();
const boxes = Array.from({ length: 3000 }, () => ({ category_id: 1, bbox: [random(1900), random(1100), 10 + random(80), 10 + random(80)] }));
const polygons = Array.from({ length: 300 }, () => {
  const [x, y, r] = [60 + random(1800), 60 + random(1080), 20 + random(38)];
  return { category_id: 2, segmentation: [Array.from({ length: 100 }, (_, i) => [x + (r + (i % 3)) * Math.cos(i * 0.0628), y + (r + (i % 3)) * Math.sin(i * 0.0628)]).flat()] };
});
const pages = { '3,000 boxes': project('boxes', 2000, 1200, boxes), '300 polygons of 100 points': project('polygons', 2000, 1200, polygons), 'brush on 4000 × 3000': project('brush', 4000, 3000, []) };

const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-quic', '--no-first-run', '--disable-background-networking'] });
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
const cdp = await page.context().newCDPSession(page);
// top-level events only: what runs inside them is in their time
const kinds = new Set(['EventDispatch', 'FireAnimationFrame', 'TimerFire', 'RunMicrotasks', 'UpdateLayoutTree', 'Layout', 'PrePaint', 'Paint', 'Layerize', 'CompositeLayers', 'HitTest', 'IntersectionObserverController::computeIntersections']);
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
  const stamps = events.filter((e) => e.name === 'TimeStamp' && e.args?.data?.message === 'step').map((e) => ({ ts: e.ts, tid: e.tid, pid: e.pid }));
  const main = stamps[0];
  const spent = events
    .filter((e) => e.ph === 'X' && kinds.has(e.name) && e.pid === main.pid && e.tid === main.tid)
    .sort((p, q) => p.ts - q.ts || q.dur - p.dur);
  const times = new Array(n).fill(0);
  let until = 0;
  for (const e of spent) {
    if (e.ts < until) continue;
    until = e.ts + (e.dur ?? 0);
    // from one step's stamp to the next: the frame of this step and the event of the next
    let i = stamps.findIndex((s) => s.ts > e.ts) - 1;
    if (i < -1) i = n - 1;
    if (i >= 0) times[i] += (e.dur ?? 0) / 1000;
  }
  const waited = events.filter((e) => e.ph === 'X' && e.name === 'Commit' && e.pid === main.pid && e.tid === main.tid).reduce((sum, e) => sum + (e.dur ?? 0), 0) / 1000 / n;
  const sorted = times.slice(1, -1).sort((p, q) => p - q);
  return [sorted[Math.floor(sorted.length / 2)], sorted[Math.floor(sorted.length * 0.95)], waited];
}
const show = (what, [p50, p95, waited], [e50, e95]) => console.log(`${what.padEnd(48)} p50 ${p50.toFixed(1)}  p95 ${p95.toFixed(1)} ms   (an empty page: ${e50.toFixed(1)} / ${e95.toFixed(1)}; waiting for the compositor ${waited.toFixed(1)} a frame); aim 8 ms`);

await page.setContent('<div style="width:1280px;height:800px"></div>');
const move = (i) => page.mouse.move(300 + (i % 40) * 8, 250 + (i % 30) * 6);
const empty = await steps(move);
await page.goto(base);
await page.getByRole('button', { name: 'Ines Okafor' }).click();
await page.getByRole('heading', { name: /^Hello/ }).waitFor();
for (const [what, path] of Object.entries(pages)) {
  await page.goto(base + path);
  await page.locator('#stage-view', { hasText: 'shown' }).waitFor({ state: 'attached', timeout: 60_000 });
  await page.waitForTimeout(800);
  const at = async (x, y) => {
    const [s, l, t] = [...(await page.locator('#stage-view').textContent()).matchAll(/-?\d+(?:\.\d+)?/g)].map((m) => Number(m[0]));
    const b = await page.getByRole('application').boundingBox();
    return [b.x + l + x * s, b.y + t + y * s];
  };
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
          const canvas = document.querySelectorAll('.stage canvas')[2];
          const stage = document.querySelector('.stage');
          const r = stage.getBoundingClientRect();
          const read = () => canvas.getContext('2d').getImageData(500, 500, 1, 1).data[3];
          const before = read();
          stage.dispatchEvent(new PointerEvent('pointermove', { clientX: r.left + 500, clientY: r.top + 500, buttons: 1, pointerId: 1, bubbles: true }));
          requestAnimationFrame(() => done([before, read()]));
        })
    );
    console.log(`${'a stroke is drawn in the frame of its event'.padEnd(48)} ${changed[1] > changed[0] ? 'yes' : `no (${changed})`}`);
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
    return said.match(/at ([\d.]+), ([\d.]+), ([\d.]+) × ([\d.]+)/).slice(1).map(Number);
  });
  await page.getByRole('list', { name: 'marks' }).getByRole('button').first().click();
  await page.mouse.move(...(await at(centre[0] + centre[2] / 2, centre[1] + centre[3] / 2)));
  await page.mouse.down();
  show(`${what}: dragging one`, await steps(move), empty);
  await page.mouse.up();
}
await browser.close();
for (const id of made) php('-r', '$p = new PDO("sqlite:".getenv("SKENO_DATA")."/skeno.sqlite"); $p->exec("pragma foreign_keys = on"); $p->exec("delete from projects where id = ".(int) $argv[1]);', String(id));
rmSync(folder, { recursive: true, force: true });
