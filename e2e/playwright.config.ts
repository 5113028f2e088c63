/** Configuration of the browser tests. `npm test` provides the database server. */
import { defineConfig } from '@playwright/test'
import { CHROMIUM } from '../scripts/chromium.ts'

export default defineConfig({
  testDir: '.',
  testMatch: '*.e2e.ts',
  outputDir: '../test-results',
  workers: 2,
  // Shared machines may stall for seconds. Tests that only pass when tried again are named at the end.
  retries: 1,
  timeout: 180_000,
  expect: { timeout: 30_000 },
  reporter: [['list'], ['json']],
  use: {
    viewport: { width: 1280, height: 800 },
    // Colours in transition must not be judged.
    contextOptions: { reducedMotion: 'reduce' },
    launchOptions: CHROMIUM,
  },
})
