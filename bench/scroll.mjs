// Slice to screen while a scan of 512 × 512 × 300 voxels is gone through, and a stroke of the brush on it, in Chromium against a demo that is
// running on the same SKENO_DATA:
//   SKENO_DATA=… node bench/scroll.mjs        (bin/demo in another terminal)
// Makes a project of its own and removes it. A step is from the press of a key to the frame in which that slice lies on the stage.
import { chromium } from '@playwright/test';
import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const base = process.env.SKENO_URL ?? 'http://127.0.0.1:8000';
const env = { ...process.env, SKENO_DATA: process.env.SKENO_DATA ?? join(process.cwd(), 'storage/skeno') };
const php = (...args) => execFileSync('php', args, { env, maxBuffer: 1 << 26 }).toString();
const folder = mkdtempSync(join(tmpdir(), 'skeno-scroll-'));
const name = `Scroll ${Date.now()}`;
const figures = (list) => {
  const sorted = [...list].sort((a, b) => a - b);
  const at = (share) => sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))].toFixed(0);
  return `p50 ${at(0.5)}, p95 ${at(0.95)}, most ${sorted.at(-1).toFixed(0)} ms`;
};

mkdirSync(join(folder, 'in'));
// noise of 9 bits over a soft ball: it packs about as well as a scanner's picture does
php(
  '-d',
  'memory_limit=1G',
  '-r',
  `$h = substr_replace(str_pad(pack('V', 348), 348, "\\0"), "n+1\\0", 344, 4);
   foreach ([40 => pack('v8', 3, 512, 512, 300, 1, 1, 1, 1), 70 => pack('v2', 4, 16), 76 => pack('g4', 1, 0.7, 0.7, 1), 108 => pack('g3', 352, 1, 0), 123 => "\\2", 252 => pack('v2', 0, 1), 280 => pack('g12', -0.7, 0, 0, 0, 0, -0.7, 0, 0, 0, 0, 1, 0)] as $at => $b) $h = substr_replace($h, $b, $at, strlen($b));
   $out = gzopen('${join(folder, 'in', 'scan.nii.gz')}', 'wb1'); gzwrite($out, $h."\\0\\0\\0\\0");
   for ($k = 0; $k < 300; $k++) { $n = random_bytes(262144); $s = ''; for ($y = 0; $y < 512; $y++) { $row = []; for ($x = 0; $x < 512; $x++) { $in = ($x - 256) ** 2 + ($y - 256) ** 2 + ($k - 150) ** 2 < 22500; $row[] = ($in ? 700 : 100) + ord($n[$y * 512 + $x]); } $s .= pack('v*', ...$row); } gzwrite($out, $s); } gzclose($out);`
);
writeFileSync(join(folder, 'codebook.json'), JSON.stringify({ skeno: 'codebook/1', classes: [{ key: 'part', name: 'Part', shapes: ['mask'], shortcut: '1' }] })); // prettier-ignore
const { project } = JSON.parse(php('artisan', 'skeno:project', name, `--codebook=${join(folder, 'codebook.json')}`, '--json'));
try {
  const began = Date.now();
  php('-d', 'memory_limit=512M', 'artisan', 'skeno:import', name, join(folder, 'in'), '--json');
  console.log(`taken in: ${((Date.now() - began) / 1000).toFixed(1)} s`);
  for (const [person, role] of [
    ['Ines Okafor', 'manager'],
    ['Mei Castellan', 'labeller']
  ])
    php('-r', '$p = new PDO("sqlite:".getenv("SKENO_DATA")."/skeno.sqlite"); $p->exec($argv[1]);', `insert into memberships (project_id, user_id, role, created_at, updated_at) select ${project}, id, '${role}', '2026-01-01', '2026-01-01' from users where name = '${person}'`); // prettier-ignore
  const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox'] });
  const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
  await page.goto(base);
  await page.getByRole('button', { name: 'Ines Okafor' }).click();
  await page.getByRole('heading', { name: /^Hello/ }).waitFor();
  await page.goto(`${base}/p/${project}/hand-out`);
  await page.getByRole('button', { name: 'to which labellers' }).click();
  await page.getByRole('checkbox', { name: /Mei Castellan/ }).check();
  await page.getByRole('button', { name: 'Hand out' }).click();
  await page.waitForTimeout(1500);
  const mei = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
  await mei.goto(base);
  await mei.getByRole('button', { name: 'Mei Castellan' }).click();
  await mei.getByRole('heading', { name: /^Hello/ }).waitFor();
  const opened = Date.now();
  await mei
    .getByRole('region', { name: `my work in ${name}` })
    .getByRole('button', { name: 'Continue' })
    .click();
  await mei
    .locator('#stage-view', { hasText: 'shown' })
    .waitFor({ state: 'attached' })
    .catch(async (e) => {
      await mei.screenshot({ path: '/tmp/scroll.png' });
      throw e;
    });
  console.log(`opened: ${Date.now() - opened} ms`);
  await mei.waitForTimeout(2000);
  await mei.keyboard.press('q');
  await mei.evaluate(() => {
    window.steps = [];
    let pressed = 0;
    addEventListener('keydown', (e) => (pressed = e.timeStamp), true);
    const slider = document.querySelector('[role=slider][aria-label=slice]');
    new MutationObserver(() => {
      const from = pressed;
      requestAnimationFrame(() => setTimeout(() => window.steps.push(performance.now() - from)));
    }).observe(slider, { attributes: true, attributeFilter: ['aria-valuenow'] });
  });
  for (const [key, count, wait] of [
    ['x', 100, 60],
    ['z', 100, 60],
    ['x', 60, 200]
  ]) {
    await mei.evaluate(() => (window.steps = []));
    for (let i = 0; i < count; i++) {
      await mei.keyboard.press(key);
      await mei.waitForTimeout(wait);
    }
    await mei.waitForTimeout(800);
    const steps = await mei.evaluate(() => window.steps);
    console.log(`${count} steps ${key === 'x' ? 'on' : 'back'}, one every ${wait} ms or so: ${steps.length} seen, ${figures(steps)}`);
  }
  await browser.close();
} catch (e) {
  console.error(e.message);
  process.exitCode = 1;
} finally {
  php('-r', '$p = new PDO("sqlite:".getenv("SKENO_DATA")."/skeno.sqlite"); $p->exec("pragma foreign_keys = on"); $p->exec("delete from projects where id = ".(int) $argv[1]);', String(project)); // prettier-ignore
  rmSync(folder, { recursive: true, force: true });
}
