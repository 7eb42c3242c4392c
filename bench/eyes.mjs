// What the browser needs for 100,000 items and objects; run by `php bench/run objects`: node bench/eyes.mjs URL PROJECT
import { chromium } from '@playwright/test';

const [base, project] = process.argv.slice(2);
const browser = await chromium.launch({
  executablePath: '/usr/bin/chromium',
  args: ['--no-sandbox', '--disable-quic', '--no-first-run', '--disable-background-networking']
});
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
const show = (what, figure, aim) => console.log(`${what.padEnd(58)} ${figure.padEnd(26)} ${aim}`);
page.setDefaultTimeout(30_000);
await page.goto(base);
await page.getByRole('button', { name: 'Ines Okafor' }).click();
await page.getByRole('heading', { name: /^Hello/ }).waitFor();

// from the answer's arrival to the frame in which the map is drawn, and every frame while it is scrolled
await page.goto(`${base}/p/${project}/items`);
await page.getByRole('application', { name: /field map of 100000 items/ }).waitFor({ timeout: 30_000 });
const drawn = await page.evaluate(async () => {
  const map = document.querySelector('.map');
  const times = [];
  for (let i = 0; i < 40; i++) {
    const at = performance.now();
    map.scrollTop = (map.scrollHeight * i) / 40;
    await new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(() => setTimeout(done))));
    times.push(performance.now() - at);
  }
  return times.sort((a, b) => a - b);
});
const answered = page.waitForResponse((r) => r.url().includes('/items/map'));
await page.getByRole('button', { name: 'condition' }).click();
await page.getByLabel('about').selectOption('state');
const began = Date.now();
await page.getByRole('button', { name: 'Add', exact: true }).click();
await answered;
const came = Date.now() - began;
await page.getByRole('status', { name: 'found' }).filter({ hasText: 'of 100000' }).waitFor();
await page.evaluate(() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done))));
show('field map of 100,000: a condition added until it is drawn', `${Date.now() - began} ms (answered after ${came})`, '≤ 500 ms');
show('a scroll of the map until it is drawn (two frames)', `p50 ${drawn[20].toFixed(0)}, p95 ${drawn[38].toFixed(0)} ms`, '');

await page.goto(`${base}/p/${project}/sheet?class=apple`);
await page.getByText('100000 objects').waitFor({ timeout: 30_000 });
const sheet = await page.evaluate(async () => {
  const table = document.querySelector('.objects');
  const times = [];
  for (let i = 0; i < 60; i++) {
    const at = performance.now();
    table.scrollTop += 144;
    await new Promise((done) => requestAnimationFrame(() => setTimeout(done)));
    times.push(performance.now() - at);
  }
  return times.sort((a, b) => a - b);
});
show('contact sheet of 100,000: a row further, until drawn', `p50 ${sheet[30].toFixed(0)}, p95 ${sheet[57].toFixed(0)} ms`, '');
await browser.close();
