// A document of 300 pages on the bench, in Chromium: from the address to its first page drawn, to a page far away, and how many pages are held.
// On an installation with the demo that is served: SKENO_DATA=… node bench/document.mjs [http://127.0.0.1:8000]
import { chromium } from 'playwright-core';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const base = process.argv[2] ?? 'http://127.0.0.1:8000';
const data = process.env.SKENO_DATA ?? 'storage/skeno';
const artisan = (...args) => execFileSync('php', ['artisan', ...args], { maxBuffer: 1 << 26 }).toString();
const folder = mkdtempSync(join(tmpdir(), 'skeno-document-'));
const codebook = { skeno: 'codebook/1', classes: [{ key: 'line', name: 'Line', shapes: ['box'] }] };
writeFileSync(join(folder, 'codebook.json'), JSON.stringify(codebook));
const project = JSON.parse(artisan('skeno:project', `Long ${Date.now()}`, `--codebook=${join(folder, 'codebook.json')}`, '--json')).project;
const code = `require 'vendor/autoload.php'; $p = new Skeno\\Demo\\Paper(595, 842); $p->SetFont('Helvetica', '', 10);
  for ($n = 1; $n <= 300; $n++) { $p->begin(); for ($l = 0; $l < 50; $l++) $p->Text(60, 60 + 15 * $l, "Sheet $n, line $l of " . $argv[2]); } $p->Output('F', $argv[1]);`;
execFileSync('php', ['-r', code, join(folder, 'long.pdf'), String(Date.now())]);
const sql = (s) => JSON.parse(execFileSync('php', ['-r', '$p=new PDO("sqlite:".$argv[1]);$q=$p->query($argv[2]);echo json_encode($q->fetchAll(PDO::FETCH_ASSOC));', join(data, 'skeno.sqlite'), s]).toString()); // prettier-ignore
sql(
  `insert into memberships (project_id, user_id, role, created_at, updated_at) select ${project}, id, 'manager', '2026-01-01', '2026-01-01' from users where name = 'Ines Okafor'`
);
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox'] });
const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
await page.goto(base);
await page.getByRole('button', { name: /Ines Okafor/ }).click();
await page.getByRole('heading', { name: /^Hello/ }).waitFor();
let sent = 0;
page.on('response', (r) => r.url().includes('size=screen') && r.url().includes('place=') && sent++);
// through the page, so that the worker draws its copies behind and the bench asks for what is not there yet
await page.goto(`${base}/p/${project}/bring-in`);
const [chooser] = await Promise.all([page.waitForEvent('filechooser'), page.getByText('choose files').click()]);
await chooser.setFiles(join(folder, 'long.pdf'));
let turn = 0;
for (let i = 0; i < 200 && sql(`select id from items where project_id = ${project}`).length === 0; i++) await page.waitForTimeout(100);
const me = sql(`select id from users where name = 'Ines Okafor'`)[0].id;
await page.request.get(`${base}/sanctum/csrf-cookie`).catch(() => {});
const token = decodeURIComponent((await page.context().cookies()).find((c) => c.name === 'XSRF-TOKEN').value);
const given = await page.request.post(`${base}/api/v1/projects/${project}/assignments`, { data: { labellers: [me], reviewers: [] }, headers: { 'X-XSRF-TOKEN': token, Referer: base } }); // prettier-ignore
if (!given.ok()) throw new Error(await given.text());
for (let i = 0; i < 100 && !turn; i++) {
  turn = sql(`select id from turns where project_id = ${project}`)[0]?.id ?? 0;
  await page.waitForTimeout(50);
}
const shown = () => page.waitForFunction(() => document.querySelector('#stage-view')?.textContent?.includes('shown'));
const times = [];
for (let i = 0; i < 7; i++) {
  await page.goto(`${base}/`);
  await page.getByRole('heading', { name: /^Hello/ }).waitFor();
  // from within the application, as an item is opened from the work; the browser has nothing of the document yet but what it kept of the last time
  await page.evaluate((to) => {
    performance.clearResourceTimings();
    const link = document.body.appendChild(document.createElement('a'));
    link.href = to;
    window.began = performance.now();
    link.click();
  }, `/p/${project}/bench/${turn}`);
  await shown();
  times.push(await page.evaluate(() => performance.now() - window.began));
}
const median = (list) => [...list].sort((a, b) => a - b)[list.length >> 1];
console.log(
  `first page of 300 on the screen, from the press that opens it: first time ${times[0].toFixed(0)}, median ${median(times).toFixed(0)} ms`
);
sent = 0;
const jumps = [];
for (const to of [250, 120, 299, 33, 180]) {
  await page.keyboard.press('t');
  await page.keyboard.press('e');
  await page.getByRole('textbox', { name: 'page' }).pressSequentially(String(to));
  const before = await page.evaluate(() => performance.now());
  await page.keyboard.press('Enter');
  await page.waitForFunction((n) => document.querySelector('[aria-label="pages"] [aria-current]')?.getAttribute('aria-label')?.startsWith(`page ${n}`) && document.querySelector('#stage-view')?.textContent?.includes('shown'), to); // prettier-ignore
  jumps.push((await page.evaluate(() => performance.now())) - before);
}
console.log(`a page far away, by its number: median ${median(jumps).toFixed(0)}, most ${Math.max(...jumps).toFixed(0)} ms; ${sent} pages asked for by five jumps`); // prettier-ignore
await browser.close();
