// Submit to next item on the screen, in Chromium against a demo that is running: node bench/next-item.mjs (bin/demo in another terminal).
// Measured in the page: from the key press to the frame in which the next picture is drawn. Takes each submit back, so the demo stays as it was.
import { chromium } from '@playwright/test';

const base = process.env.SKENO_URL ?? 'http://127.0.0.1:8000';
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-quic', '--no-first-run', '--disable-background-networking'] });
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
await page.goto(base);
await page.getByRole('button', { name: 'Mei Castellan' }).click();
await page.getByRole('region', { name: 'my work in Canopy walk' }).getByRole('button', { name: 'Continue' }).click();
await page.locator('#stage-view', { hasText: 'shown' }).waitFor({ state: 'attached' });
const times = [];
for (let i = 0; i < 12; i++) {
  await page.waitForTimeout(1200); // the labeller looks; meanwhile the next item is loaded
  const name = await page.locator('.crumbs strong').textContent();
  if ((await page.getByRole('list', { name: 'marks' }).getByRole('listitem').count()) > 0) throw new Error('this bench wants an item without marks');
  const time = await page.evaluate(
    (name) =>
      new Promise((done) => {
        const start = performance.now();
        const look = () => {
          const now = document.querySelector('.crumbs strong')?.textContent;
          if (now !== name && document.querySelector('#stage-view')?.textContent?.includes('shown')) requestAnimationFrame(() => done(performance.now() - start));
          else requestAnimationFrame(look);
        };
        dispatchEvent(new KeyboardEvent('keydown', { code: 'KeyF', key: 'f' }));
        look();
      }),
    name
  );
  times.push(time);
  await page.waitForTimeout(300);
  await page.keyboard.press('g');
  await page.locator('.crumbs strong', { hasText: name }).waitFor();
}
await browser.close();
times.sort((a, b) => a - b);
console.log(`submit to the next picture drawn: p50 ${times[5].toFixed(0)}, p95 ${times[11].toFixed(0)} ms; aim 300 ms`);
