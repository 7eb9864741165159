import { defineConfig } from '@playwright/test';

export default defineConfig({
  testDir: '.',
  // A machine that is shared may stand still for a while: waiting longer fails nothing that works.
  timeout: 240_000,
  expect: { timeout: 30_000 },
  reporter: [['list'], ['json', { outputFile: process.env['HINGE_E2E_REPORT'] ?? 'test-results/report.json' }]],
  use: {
    viewport: { width: 1280, height: 800 },
    contextOptions: { reducedMotion: 'reduce' },
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
