/** Runs every test on a throw-away cluster of its own, and fails loudly. */
import { CHROMIUM } from './chromium.ts'
import { spawn } from 'node:child_process'
import { chmodSync, existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { clusterFolder, findBinaries, startCluster, type Cluster } from '../server/database/cluster.ts'
import { openDatabase } from '../server/database/connection.ts'
import { readFolder } from '../server/content/folder.ts'
import { importFolder } from '../server/content/import.ts'
import { TEMPLATE, databaseUrl } from '../server/testing/database.ts'
import { installPackages, preventDebianCluster } from './debian.ts'
import { root } from './dependencies.mjs'
import { buildIfStale } from './front-end.ts'

interface Counts {
  passed: number
  failed: number
  /** Names of those that passed when they were tried again. */
  again: string[]
}

const bin = (name: string) => join(root, 'node_modules/.bin', name)

function need(isThere: () => boolean, packages: string[], why: string): void {
  if (isThere()) return
  const advice = installPackages(packages, why)
  if (isThere()) return
  console.error(advice ?? why)
  process.exit(1)
}

/** Runs a command with its output on the terminal; true when it succeeded. */
function step(
  name: string,
  command: string,
  words: string[],
  environment: Record<string, string> = {},
): Promise<boolean> {
  const began = performance.now()
  return new Promise((done) => {
    const child = spawn(command, words, {
      cwd: root,
      stdio: ['ignore', 'inherit', 'inherit'],
      env: { ...process.env, ...environment },
    })
    child.on('close', (code) => {
      console.log(`${code === 0 ? '✓' : '✗'} ${name} (${((performance.now() - began) / 1000).toFixed(1)} s)`)
      done(code === 0)
    })
  })
}

/** The database every test file gets a copy of: migrated, with the demo blog. */
async function makeTemplate(cluster: Cluster): Promise<void> {
  const { Client } = await import('pg')
  const client = new Client({ connectionString: cluster.administratorUrl('postgres') })
  await client.connect()
  await client.query(`CREATE DATABASE ${TEMPLATE} OWNER esquina`)
  await client.end()
  const database = await openDatabase(databaseUrl(cluster.url, TEMPLATE))
  const result = await importFolder(database, await readFolder(join(root, 'demo/cobble-lane')), new Date())
  await database.destroy()
  if (!result.ok) throw new Error(`the demo does not import: ${JSON.stringify(result.problems, null, 2)}`)
}

function vitestCounts(file: string): Counts {
  if (!existsSync(file)) return { passed: 0, failed: 1, again: [] }
  const report = JSON.parse(readFileSync(file, 'utf8')) as {
    numPassedTests: number
    numFailedTests: number
    success: boolean
  }
  return {
    passed: report.numPassedTests,
    // A file that does not load has no failed test, and fails all the same.
    failed: Math.max(report.numFailedTests, report.success ? 0 : 1),
    again: [],
  }
}

/** A part of Playwright's report. */
interface Suite {
  specs?: { file: string; title: string; tests: { status: string }[] }[]
  suites?: Suite[] | undefined
}

function browserCounts(file: string): Counts {
  if (!existsSync(file)) return { passed: 0, failed: 1, again: [] }
  const { stats, suites } = JSON.parse(readFileSync(file, 'utf8')) as Suite & {
    stats: { expected: number; unexpected: number; flaky: number }
  }
  const again = (suite: Suite): string[] => [
    ...(suite.specs ?? [])
      .filter((one) => one.tests.some((test) => test.status === 'flaky'))
      .map((one) => `${one.file}: ${one.title}`),
    ...(suite.suites ?? []).flatMap(again),
  ]
  return { passed: stats.expected + stats.flaky, failed: stats.unexpected, again: again({ suites }) }
}

/** @param filters names of test files; with any, only the tests that match are run (of browsers: those in e2e/) */
export async function run(filters: string[]): Promise<void> {
  const began = performance.now()
  need(
    () => findBinaries() !== undefined,
    ['postgresql'],
    (preventDebianCluster(), 'PostgreSQL’s server is missing.'),
  )
  const inBrowser = filters.filter((one) => one.startsWith('e2e'))
  const others = filters.filter((one) => !inBrowser.includes(one))
  const isAll = filters.length === 0
  if (isAll || inBrowser.length > 0)
    need(
      () => existsSync(CHROMIUM.executablePath),
      ['chromium'],
      'Chromium is missing; the browser tests need it.',
    )

  const folder = mkdtempSync(join(tmpdir(), 'esquina-test-'))
  // PostgreSQL's own user must be able to pass through.
  chmodSync(folder, 0o755)
  let cluster: Cluster | undefined
  const cleanUp = async () => {
    await cluster?.stop().catch(() => undefined)
    rmSync(folder, { recursive: true, force: true })
  }
  process.on('SIGINT', () => void cleanUp().then(() => process.exit(130)))
  process.on('SIGTERM', () => void cleanUp().then(() => process.exit(143)))

  const outcomes: boolean[] = []
  const counts: Counts = { passed: 0, failed: 0, again: [] }
  const add = (more: Counts) => {
    counts.passed += more.passed
    counts.failed += more.failed
    counts.again.push(...more.again)
  }
  try {
    cluster = await startCluster({
      folder: clusterFolder(join(folder, 'postgres')),
      binaries: findBinaries() ?? '',
      throwaway: true,
    })
    await makeTemplate(cluster)
    const environment = {
      ESQUINA_TEST_URL: cluster.url,
      ESQUINA_TEST_ADMINISTRATOR: cluster.administratorUrl('postgres'),
    }
    if (isAll) {
      const checks = await Promise.all([
        step('format and lint', 'sh', [
          '-c',
          `"${bin('prettier')}" --check --log-level=warn . && "${bin('eslint')}" .`,
        ]),
        step('types', bin('tsc'), ['--noEmit']),
      ])
      outcomes.push(...checks)
    }
    if (isAll || inBrowser.length > 0) await buildIfStale(root)
    if (isAll || others.length > 0) {
      const report = join(folder, 'unit.json')
      const words = ['run', '--reporter=default', '--reporter=json', `--outputFile=${report}`, ...others]
      // Building the pages has set it to “production”, and then React has nothing for tests.
      const tested = { ...environment, NODE_ENV: 'test' }
      outcomes.push(await step('unit and integration tests', bin('vitest'), words, tested))
      add(vitestCounts(report))
    }
    if (isAll || inBrowser.length > 0) {
      const report = join(folder, 'browser.json')
      const words = ['test', '--config', 'e2e/playwright.config.ts', ...inBrowser]
      outcomes.push(
        await step('browser tests', bin('playwright'), words, {
          ...environment,
          PLAYWRIGHT_JSON_OUTPUT_NAME: report,
        }),
      )
      add(browserCounts(report))
    }
  } finally {
    await cleanUp()
  }
  const isGreen = outcomes.every(Boolean) && counts.failed === 0
  console.log(`\n${isGreen ? 'All green' : 'FAILED'} in ${((performance.now() - began) / 1000).toFixed(0)} s`)
  for (const one of counts.again) console.log(`Passed when tried again, a fault to look for: ${one}`)
  console.log(`Tests: ${counts.passed} passed, ${counts.failed} failed`)
  process.exit(isGreen ? 0 : 1)
}
