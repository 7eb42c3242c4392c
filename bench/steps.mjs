// Step and jump on the bench of a clip, from the key or the press to the frame drawn, in Chromium against a demo that is running:
//   node bench/steps.mjs        (bin/demo in another terminal)
// Looks at the clip of the demo's row pass that came back to Ravi; changes nothing.
import { chromium } from '@playwright/test';

const base = process.env.SKENO_URL ?? 'http://127.0.0.1:8000';
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-quic', '--no-first-run', '--disable-background-networking'] });
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
// what is drawn says which frame it is; what is wanted, when it was asked for
await page.addInitScript(() => {
  window.drawn = [];
  const draw = CanvasRenderingContext2D.prototype.drawImage;
  CanvasRenderingContext2D.prototype.drawImage = function (picture, ...rest) {
    draw.call(this, picture, ...rest);
    if (picture instanceof VideoFrame) window.drawn.push([picture.timestamp, performance.now()]);
  };
  const asked = (e) => (window.asked = e.timeStamp);
  addEventListener('keydown', asked, true);
  addEventListener('pointerdown', asked, true);
});
await page.goto(base);
await page.getByRole('button', { name: 'Ravi Sørby' }).click();
await page.getByRole('region', { name: 'my work in Row pass' }).getByRole('button', { name: 'Continue' }).click();
await page.locator('#stage-view', { hasText: 'shown' }).waitFor({ state: 'attached' });
const slider = page.getByRole('slider', { name: 'frame' });
const frames = Number(await slider.getAttribute('aria-valuemax'));
const at = async () => Number(await slider.getAttribute('aria-valuenow')) - 1;

/** ms from what is done to the frame it asks for on the canvas */
async function time(what) {
  await page.evaluate(() => (window.drawn = []));
  await what();
  await page.waitForTimeout(250);
  const wanted = await at();
  const ms = await page.evaluate((frame) => (window.drawn.find(([k, when]) => k === frame && when >= window.asked)?.[1] ?? NaN) - window.asked, wanted);
  if (Number.isNaN(ms)) throw new Error(`frame ${wanted} was not drawn`);
  return ms;
}
const say = (what, times, aim) => {
  times.sort((a, b) => a - b);
  const p = (share) => times[Math.floor((times.length - 1) * share)].toFixed(0);
  console.log(`${what}: p50 ${p(0.5)}, p95 ${p(0.95)} ms of ${times.length}; aim p95 ${aim} ms`);
};
await page.waitForTimeout(1500);
const steps = [];
for (let i = 0; i < 60; i++) steps.push(await time(() => page.keyboard.press(i < 40 ? 'x' : 'z')));
say('a step to the frame drawn', steps, 60);
const lanes = await page.locator('.lanes canvas').boundingBox();
const jumps = [];
let random = 7;
for (let i = 0; i < 60; i++) {
  random = (random * 16807) % 2147483647;
  const frame = random % frames;
  if (Math.abs(frame - (await at())) < 2) continue;
  jumps.push(await time(() => page.mouse.click(lanes.x + ((frame + 0.5) / frames) * lanes.width, lanes.y + 8)));
}
say('a jump to the frame drawn', jumps, 150);
await browser.close();
