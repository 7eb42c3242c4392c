import { defineConfig } from '@playwright/test';
import { args, webgl } from './place';

/** Makes docs/screenshots from a demo that is running (bin/demo, in another terminal): npm run shots. */
export default defineConfig({
  testDir: '.',
  testMatch: 'shots.ts',
  outputDir: '../test-results',
  workers: 1,
  timeout: 120_000,
  reporter: [['list']],
  use: {
    baseURL: process.env.SKENO_URL ?? 'http://127.0.0.1:8000',
    viewport: { width: 1280, height: 800 },
    launchOptions: { executablePath: '/usr/bin/chromium', args: [...args, ...webgl] }
  }
});
