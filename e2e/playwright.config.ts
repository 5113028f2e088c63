/** Browser tests: each has Esquina for itself (fixtures.ts); `npm test` gives them the database server. */
import { defineConfig } from '@playwright/test'
import { CHROMIUM } from '../scripts/chromium.ts'

export default defineConfig({
  testDir: '.',
  testMatch: '*.e2e.ts',
  outputDir: '../test-results',
  workers: 2,
  // A machine that others use too may stand still for seconds. What passes only at the second try is told by name.
  retries: 1,
  timeout: 180_000,
  expect: { timeout: 30_000 },
  reporter: [['list'], ['json']],
  use: {
    viewport: { width: 1280, height: 800 },
    // Colours on their way from one to another are no colours to judge.
    contextOptions: { reducedMotion: 'reduce' },
    launchOptions: CHROMIUM,
  },
})
