// A text of 1 MB with 5,000 spans on the bench, in Chromium: from the key to the frame after the one in which its span is drawn; and spans of one class
// over short notes by keys alone: inputs a span, every key that goes down counted. On an installation with the demo:
// SKENO_DATA=… node bench/text.mjs [http://127.0.0.1:8000]
import { chromium } from 'playwright-core';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

// (--keys or --long: only that)
const only = process.argv.find((a) => a.startsWith('--'));
const base = process.argv.slice(2).find((a) => !a.startsWith('--')) ?? 'http://127.0.0.1:8000';
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
const spans = [];
for (let at = 0, n = 0; n < 5000; n++) {
  at = body.indexOf('woolly aphids', at + 1);
  spans.push({ kind: 'span', class: n % 2 ? 'pest' : 'count', geometry: { start: at, end: at + 13 }, answers: {} });
}
const long = project('Long', { skeno: 'codebook/1', classes: [pest, count] });
take(long, 'long.jsonl', [{ id: 'long', text: body }]);
const truth = Object.values(JSON.parse(readFileSync(join(data, 'demo/notes/truth.json'), 'utf8')));
const short = project('Short', { skeno: 'codebook/1', classes: [pest] });
take(
  short,
  'short.jsonl',
  truth.map(({ text }, i) => ({ id: `n${String(i).padStart(4, '0')}`, text }))
);

const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox'] });
const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
const sql = (s) =>
  execFileSync('php', [
    '-r',
    '$p=new PDO("sqlite:".$argv[1]);$q=$p->query($argv[2]);echo json_encode($q->fetchAll(PDO::FETCH_ASSOC));',
    join(data, 'skeno.sqlite'),
    s
  ]).toString();
for (const id of [long, short])
  sql(
    `insert into memberships (project_id, user_id, role, created_at, updated_at) select ${id}, id, 'manager', '2026-01-01', '2026-01-01' from users where name = 'Ines Okafor'`
  );
await page.goto(base);
await page.getByRole('button', { name: /Ines Okafor/ }).click();
await page.getByRole('heading', { name: /^Hello/ }).waitFor();
const api = (method, path, sent) =>
  page.evaluate(
    async ([method, path, sent]) => {
      const token = decodeURIComponent(document.cookie.match(/XSRF-TOKEN=([^;]+)/)[1]);
      const answer = await fetch(`/api/v1${path}`, {
        method,
        headers: { 'Content-Type': 'application/json', Accept: 'application/json', 'X-XSRF-TOKEN': token },
        ...(sent && { body: JSON.stringify(sent) })
      });
      return answer.json();
    },
    [method, path, sent]
  );
const me = (await api('GET', '/session')).user.id;
for (const id of [long, short]) await api('POST', `/projects/${id}/assignments`, { labellers: [me], reviewers: [], pool: 'all' });

if (only !== '--keys') await inALongOne();
if (only !== '--long') await overShortOnes();
await browser.close();

// --- the long one
async function inALongOne() {
  const turn = (await api('POST', `/projects/${long}/next`, { purpose: 'label', holding: [] })).packet.turn.id;
  // ids as they come: 26 signs, the later the greater
  const id = (n) => `01${String(n).padStart(24, '0')}`;
  for (let i = 0; i < spans.length; i += 100) {
    const edits = spans.slice(i, i + 100).map((data, k) => ({
      id: id(10_000_000 + long * 100_000 + i + k),
      action: 'create',
      mark: id(long * 100_000 + i + k),
      base: 0,
      data,
      seconds: 1
    }));
    const { results } = await api('POST', `/projects/${long}/turns/${turn}/edits`, { edits });
    if (!results?.every((r) => r.outcome === 'applied'))
      throw new Error(JSON.stringify(results?.find((r) => r.outcome !== 'applied') ?? results));
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
  const marks = () => Number(JSON.parse(sql(`select count(*) as n from marks where project_id = ${long} and deleted_at is null`))[0].n);
  await page.evaluate(() => {
    window.__t = [];
    addEventListener(
      'keydown',
      () => {
        const t = performance.now();
        requestAnimationFrame(() => setTimeout(() => window.__t.push(performance.now() - t)));
      },
      true
    );
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
  await middle(
    'a span by its digit',
    Array.from({ length: 40 }, (_, i) => (i % 2 ? 'w' : '1'))
  );
  await page.waitForTimeout(2000);
  console.log(`spans kept by the server: ${marks()} (5,000 and those by digits)`);
  await middle('its edge moved', ['1', ...Array.from({ length: 20 }, (_, i) => (i % 2 ? 'Shift+ArrowRight' : 'Shift+ArrowLeft'))]);
}

// --- the short ones, by keys alone
async function overShortOnes() {
  const WANTED = 200;
  let [inputs, spans, notes] = [0, 0, 0];
  const key = async (...keys) => {
    for (const k of keys) {
      inputs++;
      await page.keyboard.press(k);
    }
  };
  const drawn = () => page.evaluate(() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done))));
  // on which line a place stands; without one where the word that is looked at begins (its frame lies 3 px round it)
  const rects = (find) =>
    page.evaluate((wanted) => {
      const word = [...document.querySelectorAll('[data-block] [data-at]')];
      const at = (place) => {
        const piece = word.findLast((w) => Number(w.dataset.at) <= place);
        const inside = place - Number(piece.dataset.at);
        // (a line break lies between two blocks)
        if (inside >= piece.firstChild.length) return undefined;
        const range = document.createRange();
        range.setStart(piece.firstChild, inside);
        range.setEnd(piece.firstChild, inside + 1);
        return range.getClientRects()[0];
      };
      const all = Array.from({ length: wanted.length }, (_, place) => at(place));
      const lines = [...new Set(all.filter((r) => r?.width > 0).map((r) => Math.round(r.top)))].sort((a, b) => a - b);
      const line = (top) => lines.findIndex((l) => Math.abs(l - top) < 4);
      if (wanted.place !== undefined) return line(all[wanted.place].top);
      const frame = document.querySelector('.cursor').getBoundingClientRect();
      return all.findIndex((r) => r && Math.abs(r.left - frame.left - 3) < 2 && Math.abs(r.top - frame.top - 1) < 4);
    }, find);
  const begin = (await api('POST', `/projects/${short}/next`, { purpose: 'label', holding: [] })).packet.turn.id;
  await page.goto(`${base}/p/${short}/bench/${begin}`);
  while (spans < WANTED) {
    const name = await page.locator('.crumbs').innerText();
    const n = Number(name.match(/n(\d{4})/)[1]);
    const { text, spans: all } = truth[n];
    const left = all.filter((s) => s.class === 'pest').sort((a, b) => a.start - b.start);
    const chars = [...text];
    const said = (s) => chars.slice(s.start, s.end).join('');
    await page.locator('[data-block]').first().waitFor();
    await page.waitForTimeout(280);
    const { words } = await api(
      'GET',
      (await api('GET', `/projects/${short}/items?name=${name.match(/n\d{4}/)[0]}`)).data[0].text.path.replace('/api/v1', '')
    );
    const starts = [];
    for (let i = 0, p = 0; i < words.length; i += 2) {
      starts.push(p + words[i]);
      p += words[i] + words[i + 1];
    }
    const place = (at) => rects({ length: text.trimEnd().length, place: at });
    const looked = () => rects({ length: text.trimEnd().length });
    const about = (s) => [starts.indexOf(s.start), starts.filter((p) => p < s.end).length - 1];
    // first and last of the words that are looked at
    let [first, last] = [0, 0];
    // what is offered, right or not: as one who looks at what is drawn before the next key
    for (;;) {
      await drawn();
      const cap = page.getByRole('button', { name: /^A\s*Pest: / });
      if (!(await cap.count())) break;
      const [, offered, more] = (await cap.innerText()).match(/Pest: (.*?)(…?)\s*$/);
      const same = (words) =>
        more ? words.toLowerCase().startsWith(offered.toLowerCase()) : words.toLowerCase() === offered.toLowerCase();
      const hit = left.findIndex((s) => same(said(s)));
      if (hit < 0) await key('d');
      else {
        [first, last] = about(left.splice(hit, 1)[0]);
        spans++;
        await key('a');
      }
    }
    // the others by the cursor: on to the word, widened, the digit
    for (const s of left) {
      const [from, to] = about(s);
      const more = to - from;
      // down or up to its line, where that is the shorter way, then from word to word
      if (Math.abs(from - first) > 6) {
        const down = Math.round((await place(starts[from])) - (await place(starts[first])));
        await key(...Array(Math.abs(down)).fill(down > 0 ? 'x' : 'z'));
        await drawn();
        if (down !== 0) first = last = starts.indexOf(await looked());
      }
      await key(...(from > last ? Array(from - last).fill('w') : Array(Math.max(0, first - from)).fill('q')));
      if (more > 0) {
        inputs++;
        await page.keyboard.down('e');
        await key(...Array(more).fill('w'));
        await page.keyboard.up('e');
      }
      await key('1');
      [first, last] = [from, to];
      spans++;
    }
    notes++;
    await key(all.some((s) => s.class === 'pest') ? 's' : 'f');
    await page.waitForFunction((before) => document.querySelector('.crumbs')?.innerText !== before, name, { timeout: 15000 });
  }
  console.log(
    `${spans} spans of one class over ${notes} notes: ${inputs} inputs, ${(inputs / spans).toFixed(2)} a span, submitting each note among them`
  );
  const kept = JSON.parse(
    sql(
      `select items.path, json_extract(geometry, '$.start') as start, json_extract(geometry, '$.end') as end from marks join items on items.id = marks.item_id where marks.project_id = ${short} and marks.deleted_at is null`
    )
  );
  const told = new Set(
    truth
      .slice(0, notes)
      .flatMap(({ spans: all }, n) =>
        all.filter((s) => s.class === 'pest').map((s) => `n${String(n).padStart(4, '0')} ${s.start} ${s.end}`)
      )
  );
  const right = kept.filter((m) => told.has(`${m.path.match(/n\d{4}/)[0]} ${m.start} ${m.end}`)).length;
  console.log(`kept by the server: ${kept.length}, of them ${right} of the ${told.size} that are there`);
}
