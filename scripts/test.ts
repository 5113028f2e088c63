/** Runs every test on a temporary PostgreSQL cluster. */
import { CHROMIUM } from './chromium.ts'
import { spawn } from 'node:child_process'
import { chmodSync, existsSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { clusterFolder, findBinaries, startCluster, type Cluster } from '../server/store/cluster.ts'
import { databaseUrl, importDemo, TEMPLATE } from '../server/testing/database.ts'
import { redisProgram } from '../server/testing/redis.ts'
import { installPackages, preventDebianCluster } from './debian.ts'
import { root } from './dependencies.mjs'
import { buildIfStale } from './front-end.ts'
import { bundleServer } from './bundles.ts'
import { browserCounts, failuresOf, passedOf, testedFiles, unhandledIn, type Counts } from './reports.ts'

const bin = (name: string) => join(root, 'node_modules/.bin', name)

function need(isThere: () => boolean, packages: string[], why: string): void {
  if (isThere()) return
  const advice = installPackages(packages, why)
  if (isThere()) return
  console.error(advice ?? why)
  process.exit(1)
}

/** Runs a command with its output on the terminal. Returns true if it succeeded. */
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

/** Creates the database that every test file gets a copy of: migrated, with the demo. */
async function makeTemplate(cluster: Cluster): Promise<void> {
  const { Client } = await import('pg')
  const client = new Client({ connectionString: cluster.administratorUrl('postgres') })
  await client.connect()
  await client.query(`CREATE DATABASE ${TEMPLATE} OWNER esquina`)
  await client.end()
  await importDemo(databaseUrl(cluster.url, TEMPLATE))
}

/**
 * Runs the tests that need no browser. In a complete run, files that fail are tried once more. Tests that pass then are
 * named at the end, like those of the browser; what is really broken fails again.
 */
async function unitTests(
  filters: string[],
  environment: Record<string, string>,
  report: string,
): Promise<{ isGreen: boolean; counts: Counts }> {
  // In production, React has no support for tests.
  const tested = { ...environment, NODE_ENV: 'test' }
  const run = async (name: string, files: string[], to: string) => ({
    isGreen: await step(
      name,
      bin('vitest'),
      [
        'run',
        ...['default', 'json', './scripts/unhandled.ts'].map((one) => `--reporter=${one}`),
        `--outputFile=${to}`,
        ...files,
      ],
      { ...tested, ESQUINA_UNHANDLED: `${to}.unhandled` },
    ),
    files: testedFiles(to),
    unhandled: unhandledIn(`${to}.unhandled`),
  })
  const first = await run('unit and integration tests', filters, report)
  const broken = first.files.filter((file) => file.status !== 'passed')
  const failures = broken.flatMap(failuresOf)
  // An error outside of any test does not belong to a file that could be tried again.
  if (first.isGreen || broken.length === 0 || first.unhandled.length > 0 || filters.length > 0) {
    const failed = [...failures, ...first.unhandled]
    if (!first.isGreen && failed.length === 0) failed.push('The tests ended without a reason.')
    return { isGreen: first.isGreen, counts: { passed: passedOf(first.files), failed, again: [] } }
  }
  const names = broken.map((file) => file.name)
  const second = await run('failed tests, tried again', names, `${report}.again`)
  const again = second.files.filter((file) => names.includes(file.name))
  const recovered = again.filter((file) => file.status === 'passed').map((file) => file.name)
  const isMissing = again.length < names.length
  return {
    isGreen: second.isGreen && !isMissing,
    counts: {
      passed: passedOf(first.files.filter((file) => !broken.includes(file))) + passedOf(again),
      failed: [
        ...again.flatMap(failuresOf),
        ...second.unhandled,
        ...(isMissing ? ['Not every failed file could be tried again.'] : []),
      ],
      again: broken.filter((file) => recovered.includes(file.name)).flatMap(failuresOf),
    },
  }
}

/** @param filters names of test files. With any, only matching tests run; browser tests are in e2e/. */
export async function run(filters: string[]): Promise<void> {
  const began = performance.now()
  need(
    () => findBinaries() !== undefined,
    ['postgresql'],
    (preventDebianCluster(), 'PostgreSQL’s server is missing.'),
  )
  need(
    () => redisProgram() !== undefined,
    ['redis-server'],
    'A Redis or Valkey server is missing; the tests of shared copies need one.',
  )
  const inBrowser = filters.filter((one) => one.startsWith('e2e'))
  const others = filters.filter((one) => !inBrowser.includes(one))
  const isAll = filters.length === 0
  need(
    () => existsSync(CHROMIUM.executablePath),
    ['chromium'],
    'Chromium is missing; the browser tests, and the tests of checks in a browser, need it.',
  )

  const folder = mkdtempSync(join(tmpdir(), 'esquina-test-'))
  // PostgreSQL's own user must be able to enter the folder.
  chmodSync(folder, 0o755)
  let cluster: Cluster | undefined
  const cleanUp = async () => {
    await cluster?.stop().catch(() => undefined)
    rmSync(folder, { recursive: true, force: true })
  }
  process.on('SIGINT', () => void cleanUp().then(() => process.exit(130)))
  process.on('SIGTERM', () => void cleanUp().then(() => process.exit(143)))

  const outcomes: boolean[] = []
  const counts: Counts = { passed: 0, failed: [], again: [] }
  const add = (more: Counts) => {
    counts.passed += more.passed
    counts.failed.push(...more.failed)
    counts.again.push(...more.again)
  }
  try {
    // The template is filled with the help of threads, which run from bundles.
    await bundleServer(root)
    cluster = await startCluster({
      folder: clusterFolder(join(folder, 'postgres')),
      binaries: findBinaries() ?? '',
      // Many test files use it at the same time, each with several processes.
      connections: 200,
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
        step('architecture', 'npm', ['run', '--silent', 'architecture']),
        step('types', bin('tsc'), ['--noEmit']),
      ])
      outcomes.push(...checks)
    }
    if (isAll || inBrowser.length > 0) await buildIfStale(root)
    if (isAll || others.length > 0) {
      const tried = await unitTests(others, environment, join(folder, 'unit.json'))
      outcomes.push(tried.isGreen)
      add(tried.counts)
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
  const isGreen = outcomes.every(Boolean) && counts.failed.length === 0
  console.log(`\n${isGreen ? 'All green' : 'FAILED'} in ${((performance.now() - began) / 1000).toFixed(0)} s`)
  for (const one of counts.failed) console.log(`Failed: ${one}`)
  for (const one of counts.again) console.log(`Passed when tried again, which is a fault to look for: ${one}`)
  console.log(`Tests: ${counts.passed} passed, ${counts.failed.length} failed`)
  process.exit(isGreen ? 0 : 1)
}
