// A sweep over the demo's apples in Chromium, with bin/demo running in another terminal: how long from a key until the next object is
// drawn, and whether that is within the frame the key came in.  node bench/sweep.mjs
import { chromium } from '@playwright/test';

const base = process.env.SKENO_URL ?? 'http://127.0.0.1:8000';
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-quic', '--no-first-run', '--disable-background-networking'] });
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
page.setDefaultTimeout(30_000);
await page.goto(base);
await page.getByRole('button', { name: 'Ines Okafor' }).click();
await page.getByRole('heading', { name: /^Hello/ }).waitFor();
await page.goto(`${base}/p/1/sweep?ask=q:ripeness&answer=`);
await page.getByRole('button', { name: 'Begin' }).click();
await page.getByRole('status', { name: 'progress' }).filter({ hasText: '0 of' }).waitFor();
await page.waitForTimeout(1500);
const steps = await page.evaluate(async () => {
  const found = [];
  const frame = () => new Promise((done) => requestAnimationFrame(done));
  for (let i = 0; i < 200; i++) {
    await frame();
    const at = performance.now();
    // the answer it has already, so that nothing of the demo changes but who gave it
    const lit = document.querySelector('.rows [aria-pressed="true"] kbd')?.textContent ?? 'B';
    window.dispatchEvent(new KeyboardEvent('keydown', { code: `Key${lit}`, key: lit.toLowerCase(), bubbles: true }));
    await frame();
    const canvas = document.querySelector('.stage canvas');
    const drawn = canvas.dataset.drawn === 'yes' && document.querySelector('[aria-label="progress"]').textContent.startsWith(String(i + 1));
    found.push([performance.now() - at, drawn]);
    await new Promise((done) => setTimeout(done, 120));
  }
  return found;
});
const times = steps.map(([t]) => t).sort((a, b) => a - b);
const inFrame = steps.filter(([, drawn]) => drawn).length;
console.log(`200 answers by 200 keys: next object drawn in the frame of the key ${inFrame} of 200 times; key to frame p50 ${times[100].toFixed(1)}, p95 ${times[190].toFixed(1)} ms`);
await browser.close();
