import { defineConfig } from '@playwright/test';
import { args, folders, ports } from './place';

export default defineConfig({
  testDir: '.',
  testMatch: /.*\.spec\.ts/,
  outputDir: '../test-results',
  workers: 1,
  timeout: 90_000,
  expect: { timeout: 10_000 },
  reporter: [['list']],
  forbidOnly: !!process.env.CI,
  use: {
    actionTimeout: 15_000,
    viewport: { width: 1280, height: 800 },
    trace: 'retain-on-failure',
    launchOptions: { executablePath: '/usr/bin/chromium', args }
  },
  // two installations of their own: one with the demo, one that is empty
  webServer: (['demo', 'empty'] as const).map((name) => ({
    command: `bash ${import.meta.dirname}/server ${name}`,
    url: `http://127.0.0.1:${ports[name]}/api/v1/health`,
    reuseExistingServer: false,
    timeout: 300_000,
    env: { PORT: String(ports[name]), SKENO_DATA: folders[name], PHP_CLI_SERVER_WORKERS: '3' },
    gracefulShutdown: { signal: 'SIGTERM' as const, timeout: 20_000 }
  }))
});
