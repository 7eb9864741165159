import { defineConfig } from '@playwright/test';

export default defineConfig({
  testDir: '.',
  // A machine that is shared may stand still for a while: waiting longer fails nothing that works.
  timeout: 240_000,
  expect: { timeout: 30_000 },
  workers: 1,
  retries: 1,
  reporter: [['list'], ['json', { outputFile: process.env['HINGE_E2E_REPORT'] ?? 'test-results/report.json' }]],
  use: {
    baseURL: process.env['HINGE_TEST_URL'] ?? 'http://127.0.0.1:8480',
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
        '--no-first-run',
      ],
    },
  },
});
