// A folder chosen on the page, until the report says done; run by `php bench/run bring-in`: node bench/bring-in.mjs URL PROJECT FOLDER COUNT
import { chromium } from '@playwright/test';

const [base, project, folder, count] = process.argv.slice(2);
const browser = await chromium.launch({
  executablePath: '/usr/bin/chromium',
  args: ['--no-sandbox', '--disable-quic', '--no-first-run', '--disable-background-networking']
});
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
await page.goto(base);
await page.getByRole('button', { name: 'Ines Okafor' }).click();
await page.getByRole('heading', { name: /^Hello/ }).waitFor();
await page.goto(`${base}/p/${project}/bring-in`);
const began = Date.now();
await page.getByLabel('choose a folder').setInputFiles(folder);
await page.getByRole('region', { name: 'sending' }).getByText('sent', { exact: true }).waitFor({ timeout: 300_000 });
const sent = Date.now();
await page.getByRole('region', { name: 'report' }).getByText(/done/).waitFor({ timeout: 300_000 });
const done = Date.now();
const s = (ms) => (ms / 1000).toFixed(1);
console.log(
  `${`a folder of ${count} pictures brought in through the page`.padEnd(58)} ${`${s(done - began)} s (sent after ${s(sent - began)})`.padEnd(26)}`
);
await browser.close();
