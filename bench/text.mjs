// A text of 1 MB with 5,000 spans on the bench, in Chromium: from the key to the frame after the one in which its span is drawn; and spans of one class
// over short notes by keys alone: inputs a span, every key that goes down counted. On an installation with the demo:
// SKENO_DATA=… node bench/text.mjs [http://127.0.0.1:8000]
import { chromium } from 'playwright-core';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const base = process.argv[2] ?? 'http://127.0.0.1:8000';
const data = process.env.SKENO_DATA ?? 'storage/skeno';
const artisan = (...args) => execFileSync('php', ['artisan', ...args], { maxBuffer: 1 << 26 }).toString();
const folder = mkdtempSync(join(tmpdir(), 'skeno-text-'));
const project = (name, document) => {
  writeFileSync(join(folder, 'codebook.json'), JSON.stringify(document));
  return JSON.parse(artisan('skeno:project', `${name} ${Date.now()}`, `--codebook=${join(folder, 'codebook.json')}`, '--json')).project;
};
const take = (id, name, lines) => {
  writeFileSync(join(folder, name), lines.map((l) => JSON.stringify(l) + '\n').join(''));
  artisan('skeno:import', String(id), join(folder, name), '--format=jsonl', '--json');
};
const pest = { key: 'pest', name: 'Pest', shapes: ['span'], shortcut: '1' };
const count = { key: 'count', name: 'Count', shapes: ['span'], shortcut: '2' };

let body = '';
for (let n = 0; body.length < 1_000_000; n++)
  body += `Row ${n}: ${(n * 37) % 90} woolly aphids on the Winterholt, nothing on the ${['slope', 'old wall', 'nursery'][n % 3]}. ${n % 5 === 4 ? '\n' : ''}`;
const annotations = [];
for (let at = 0, n = 0; n < 5000; n++) {
  at = body.indexOf('woolly aphids', at + 1);
  annotations.push({ body: n % 2 ? 'pest' : 'count', target: { selector: { type: 'TextPositionSelector', start: at, end: at + 13 } } });
}
const long = project('Long', { skeno: 'codebook/1', classes: [pest, count] });
take(long, 'long.jsonl', [{ id: 'long', text: body, labelled: 'objects', annotations }]);
const truth = Object.values(JSON.parse(readFileSync(join(data, 'demo/notes/truth.json'), 'utf8')));
const short = project('Short', { skeno: 'codebook/1', classes: [pest] });
take(short, 'short.jsonl', truth.map(({ text }, i) => ({ id: `n${String(i).padStart(4, '0')}`, text })));

const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox'] });
const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
const sql = (s) => execFileSync('php', ['-r', '$p=new PDO("sqlite:".$argv[1]);$q=$p->query($argv[2]);echo json_encode($q->fetchAll(PDO::FETCH_ASSOC));', join(data, 'skeno.sqlite'), s]).toString();
for (const id of [long, short]) sql(`insert into memberships (project_id, user_id, role, created_at, updated_at) select ${id}, id, 'manager', '2026-01-01', '2026-01-01' from users where name = 'Ines Okafor'`);
await page.goto(base);
await page.getByRole('button', { name: /Ines Okafor/ }).click();
await page.getByRole('heading', { name: /^Hello/ }).waitFor();
const api = (method, path, sent) =>
  page.evaluate(
    async ([method, path, sent]) => {
      const token = decodeURIComponent(document.cookie.match(/XSRF-TOKEN=([^;]+)/)[1]);
      const answer = await fetch(`/api/v1${path}`, { method, headers: { 'Content-Type': 'application/json', Accept: 'application/json', 'X-XSRF-TOKEN': token }, ...(sent && { body: JSON.stringify(sent) }) });
      return answer.json();
    },
    [method, path, sent]
  );
const me = (await api('GET', '/session')).user.id;
for (const id of [long, short]) await api('POST', `/projects/${id}/assignments`, { labellers: [me], reviewers: [], include_labelled: true });

// --- the long one
let turn = (await api('POST', `/projects/${long}/next`, { purpose: 'label', holding: [] })).packet?.turn.id;
if (turn === undefined) {
  // its labels are accepted: it is opened to be looked at, and taken up
  turn = JSON.parse(sql(`select max(id) as id from turns where project_id = ${long}`))[0].id;
  sql(`update turns set state = 'waiting', user_id = null where id = ${turn}`);
}
const began = Date.now();
await page.goto(`${base}/p/${long}/bench/${turn}`);
await page.locator('.line.own').first().waitFor();
console.log(`a text of 1 MB with 5,000 spans opened: ${Date.now() - began} ms`);
await page.waitForTimeout(1500);
// into the middle of it
await page.locator('[role=application]').evaluate((e) => (e.scrollTop = e.scrollHeight / 2));
await page.waitForTimeout(800);
const at = await page.locator('[data-block] span[data-at]').evaluateAll((all) => {
  const seen = all.find((s) => s.getBoundingClientRect().top > 200);
  const r = seen.getClientRects()[0];
  return { x: r.left + 20, y: r.top + 8 };
});
await page.mouse.click(at.x, at.y);
await page.evaluate(() => {
  window.__t = [];
  addEventListener('keydown', () => {
    const t = performance.now();
    requestAnimationFrame(() => setTimeout(() => window.__t.push(performance.now() - t)));
  }, true);
});
const middle = async (name, keys) => {
  await page.evaluate(() => (window.__t = []));
  for (const key of keys) {
    await page.keyboard.press(key);
    await page.waitForTimeout(60);
  }
  const t = (await page.evaluate(() => window.__t)).sort((a, b) => a - b);
  console.log(`${name}: p50 ${t[t.length >> 1].toFixed(1)}, p95 ${t[Math.floor(t.length * 0.95)].toFixed(1)} ms (${t.length} keys)`);
};
await middle('a word on, from the key to its frame', Array(40).fill('w'));
await middle('a span by its digit', Array.from({ length: 40 }, (_, i) => (i % 2 ? 'w' : '1')));
await middle('its edge moved', ['1', ...Array.from({ length: 20 }, (_, i) => (i % 2 ? 'Shift+ArrowRight' : 'Shift+ArrowLeft'))]);

// --- the short ones, by keys alone
const WANTED = 200;
let [inputs, spans, notes] = [0, 0, 0];
const key = async (...keys) => {
  for (const k of keys) {
    inputs++;
    await page.keyboard.press(k);
  }
};
const first = (await api('POST', `/projects/${short}/next`, { purpose: 'label', holding: [] })).packet.turn.id;
await page.goto(`${base}/p/${short}/bench/${first}`);
while (spans < WANTED) {
  const name = await page.locator('.crumbs').innerText();
  const n = Number(name.match(/n(\d{4})/)[1]);
  const { text, spans: all } = truth[n];
  const left = all.filter((s) => s.class === 'pest').sort((a, b) => a.start - b.start);
  const chars = [...text];
  const said = (s) => chars.slice(s.start, s.end).join('');
  await page.locator('[data-block]').first().waitFor();
  await page.waitForTimeout(280);
  // what is offered, right or not
  for (;;) {
    const cap = page.getByRole('button', { name: /^A\s*Pest: / });
    if (!(await cap.count())) break;
    const offered = (await cap.innerText()).split('Pest: ')[1].trim().replace('…', '');
    const hit = left.findIndex((s) => said(s).toLowerCase().startsWith(offered.toLowerCase()));
    if (hit < 0) await key('d');
    else {
      left.splice(hit, 1);
      spans++;
      await key('a');
    }
    await page.waitForTimeout(30);
  }
  // the others by the cursor: on to the word, widened, the digit
  const { words } = await api('GET', (await api('GET', `/projects/${short}/items?name=${name.match(/n\d{4}/)[0]}`)).data[0].text.path.replace('/api/v1', ''));
  const starts = [];
  for (let i = 0, p = 0; i < words.length; i += 2) {
    starts.push(p + words[i]);
    p += words[i] + words[i + 1];
  }
  let cursor = 0;
  for (const s of left) {
    const from = starts.indexOf(s.start);
    const more = starts.filter((p) => p > s.start && p < s.end).length;
    await key(...Array(Math.max(0, from - cursor)).fill('w'));
    if (more > 0) {
      inputs++;
      await page.keyboard.down('e');
      await key(...Array(more).fill('w'));
      await page.keyboard.up('e');
    }
    await key('1');
    cursor = from + more;
    spans++;
  }
  notes++;
  await key(all.some((s) => s.class === 'pest') ? 's' : 'f');
  await page.waitForFunction((before) => document.querySelector('.crumbs')?.innerText !== before, name, { timeout: 15000 });
}
console.log(`${spans} spans of one class over ${notes} notes: ${inputs} inputs, ${(inputs / spans).toFixed(2)} a span, submitting each note among them`);
const kept = JSON.parse(sql(`select count(*) as n from marks where project_id = ${short} and deleted_at is null`))[0].n;
console.log(`kept by the server: ${kept}`);
await browser.close();
