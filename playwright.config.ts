import { defineConfig } from '@playwright/test';

export default defineConfig({
  testDir: 'e2e',
  globalSetup: './e2e/run.ts',
  // Files go side by side, each with a server of its own; the tests of a file one after another.
  workers: 2,
  // A busy machine is slow; only what hangs is ended.
  timeout: 300_000,
  expect: { timeout: 90_000 },
  reporter: [['list'], ...(process.env.PLAYWRIGHT_JSON_OUTPUT_NAME ? [['json'] as const] : [])],
  outputDir: 'test-results',
  use: {
    viewport: { width: 1280, height: 800 },
    actionTimeout: 90_000,
    // On a busy machine a menu is still growing while it is pressed, and the release meets another of its items.
    contextOptions: { reducedMotion: 'reduce' },
    // A trace of every step takes as long as the steps: ask for one with `--trace on`.
    screenshot: 'only-on-failure',
    launchOptions: {
      executablePath: process.env.CHROMIUM_PATH ?? '/usr/bin/chromium-headless-shell',
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    },
  },
});
