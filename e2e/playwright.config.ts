/** One start for all browser tests, on a data folder of its own. */
import { CHROMIUM } from '../scripts/chromium.ts'
import { defineConfig } from '@playwright/test'

/** Chosen by `npm test`, so that two runs, or a run beside `npm start`, are not in each other's way. */
export const WORKBENCH_PORT = Number(process.env['ESQUINA_TEST_PORT'] ?? 4390)
export const BLOG_PORT = Number(process.env['ESQUINA_TEST_BLOG_PORT'] ?? 4391)
export const KEY = 'browser-tests'
const data = process.env['ESQUINA_TEST_DATA'] ?? '.esquina-test'

export default defineConfig({
  testDir: '.',
  testMatch: '*.e2e.ts',
  outputDir: '../test-results',
  workers: 1,
  // Far beyond what anything takes: a machine that others use too may stand still for seconds.
  timeout: 180_000,
  expect: { timeout: 30_000 },
  reporter: [['list'], ['json']],
  use: {
    baseURL: `http://127.0.0.1:${WORKBENCH_PORT}`,
    viewport: { width: 1280, height: 800 },
    // Colours on their way from one to another are no colours to judge.
    contextOptions: { reducedMotion: 'reduce' },
    launchOptions: CHROMIUM,
  },
  webServer: {
    command: 'node scripts/start.mjs',
    cwd: '..',
    url: `http://127.0.0.1:${BLOG_PORT}/healthz`,
    timeout: 300_000,
    gracefulShutdown: { signal: 'SIGTERM', timeout: 10_000 },
    env: {
      ESQUINA_DATA: data,
      ESQUINA_PORT: String(WORKBENCH_PORT),
      ESQUINA_BLOG_PORT: String(BLOG_PORT),
      ESQUINA_KEY: KEY,
    },
  },
})
