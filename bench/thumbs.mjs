// Sixty thumbnails in Chromium, from the list of items to all of them drawn; run by `php bench/run bring-in`: node bench/thumbs.mjs URL PROJECT
import { chromium } from '@playwright/test';

const [base, project] = process.argv.slice(2);
const browser = await chromium.launch({
  executablePath: '/usr/bin/chromium',
  args: ['--no-sandbox', '--disable-quic', '--no-first-run', '--disable-background-networking']
});
for (const [what, pass, aim] of [
  ['60 thumbnails on the screen (Chromium)', true, '≤ 500 ms'],
  ['the same, each asked of the application', false, '']
]) {
  const times = [];
  for (let n = 0; n < 5; n++) {
    // nothing cached: a browser of its own each time
    const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
    await page.goto(base);
    await page.getByRole('button', { name: 'Ines Okafor' }).click();
    await page.getByRole('heading', { name: /^Hello/ }).waitFor();
    times.push(
      await page.evaluate(
        async ([project, pass]) => {
          const began = performance.now();
          const found = await (await fetch(`/api/v1/projects/${project}/items`, { headers: { Accept: 'application/json' } })).json();
          const images = found.data.slice(0, 60).map((item) => {
            const image = new Image(80, 60);
            image.src = pass ? item.picture.thumb : item.picture.thumb.replace(/&pass=.*/, '');
            return image;
          });
          document.body.prepend(...images);
          await Promise.all(images.map((image) => image.decode()));
          await new Promise((drawn) => requestAnimationFrame(() => requestAnimationFrame(drawn)));
          return performance.now() - began;
        },
        [project, pass]
      )
    );
    await page.context().close();
  }
  times.sort((a, b) => a - b);
  console.log(`${what.padEnd(58)} ${`p50 ${times[2].toFixed(0)}, most ${times[4].toFixed(0)} ms`.padEnd(26)} ${aim}`);
}
await browser.close();
