/** Measures, in turns, and prints a table: median of the rounds, ratio to the reference, and the goal. */
import { spawn, type ChildProcess } from 'node:child_process'
import { chmodSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { gzipSync } from 'node:zlib'
import { chromium } from '@playwright/test'
import autocannon from 'autocannon'
import pg from 'pg'
import { findBinaries, freePort } from '../server/store/cluster.ts'
import { start } from '../server/start.ts'
import { CHROMIUM, untilLoaded } from '../scripts/chromium.ts'
import { root } from '../scripts/dependencies.mjs'
import { buildIfStale } from '../scripts/front-end.ts'
import { bundleServer } from '../scripts/bundles.ts'
import { attackFigures } from './attacks.ts'
import { bundle, bundled } from './bundle.ts'
import { commentFigures } from './comments.ts'
import { memoryFigures, precisionFigures, processFigures, purgeFigures } from './copies.ts'
import { contentFigures } from './content.ts'
import { listingFigures } from './listings.ts'
import { routingFigures } from './routing.ts'
import type { templateFigures } from './templates.ts'
import { writeFigures } from './writes.ts'

const ROUNDS = 5
const SECONDS = 4
const CONNECTIONS = 10
const EDITS = 9
const KEY = 'bench'
const SIGNALS = ['SIGINT', 'SIGTERM', 'SIGHUP'] as const

const median = (values: readonly number[]) =>
  [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)] ?? 0
const row = (...cells: string[]) =>
  console.log(cells.map((cell, index) => (index === 0 ? cell.padEnd(64) : ` ${cell.padStart(17)}`)).join(''))

async function launch(
  kind: string,
  program: string,
  url: string,
): Promise<{ child: ChildProcess; port: number }> {
  const port = await freePort()
  const child = spawn(process.execPath, ['--import', 'tsx', program, kind, url, String(port)], {
    cwd: root,
    stdio: ['ignore', 'pipe', 'inherit'],
  })
  await new Promise<void>((done, fail) => {
    child.stdout?.once('data', () => done())
    child.once('close', () => fail(new Error(`The server “${kind}” ended.`)))
  })
  return { child, port }
}

/** How the requests to one server are answered. */
interface Answered {
  /** Per second. */
  rate: number
  /** The time within which 99 of 100 are answered, in milliseconds. */
  p99: number
}

/** Returns the requests per second of each server: medians of rounds in which they take turns. */
const rates = async (url: string, variants: readonly (readonly [string, string])[]): Promise<number[]> =>
  (await answered(url, variants)).map((one) => one.rate)

/**
 * Measures servers: medians of rounds in which they take turns.
 * @param variants kind, program, and whether the client has the page, so that the answer is 304
 */
async function answered(
  url: string,
  variants: readonly (readonly [string, string, boolean?])[],
): Promise<Answered[]> {
  const servers = await Promise.all(variants.map(([kind, program]) => launch(kind, program, url)))
  const stop = () => servers.forEach(({ child }) => child.kill())
  process.once('exit', stop)
  const measured: Answered[][] = variants.map(() => [])
  const fire = async (port: number, seconds: number, tag?: string) => {
    const result = await autocannon({
      url: `http://127.0.0.1:${port}/posts`,
      connections: CONNECTIONS,
      duration: seconds,
      ...(tag === undefined ? {} : { headers: { 'if-none-match': tag } }),
    })
    const wrong = tag === undefined ? result.non2xx : result['2xx']
    if (wrong > 0 || result.errors > 0)
      throw new Error(`${wrong} answers had another status, ${result.errors} errors.`)
    return { rate: result.requests.average, p99: result.latency.p99 }
  }
  const tags: (string | undefined)[] = []
  for (const [index, { port }] of servers.entries()) {
    await fire(port, 3)
    const { headers } = await fetch(`http://127.0.0.1:${port}/posts`, {
      headers: { 'accept-encoding': 'identity' },
    })
    tags.push(variants[index]?.[2] === true ? (headers.get('etag') ?? '') : undefined)
  }
  for (let round = 0; round < ROUNDS; round++) {
    for (const [index, { port }] of servers.entries())
      measured[index]?.push(await fire(port, SECONDS, tags[index]))
  }
  stop()
  process.off('exit', stop)
  return measured.map((all) => ({
    rate: median(all.map((one) => one.rate)),
    p99: median(all.map((one) => one.p99)),
  }))
}

async function throughput(url: string): Promise<void> {
  // As `npm start` runs the server.
  const complete = await bundle(root, true)
  const [reference = 0, esquina = 0, walked = 0, kept = 0] = await rates(url, [
    ['reference', complete],
    ['esquina', complete],
    ['walked', complete],
    ['kept', complete],
  ])
  const none = { rate: NaN, p99: NaN }
  const [constant = none, page = none, unchanged = none] = await answered(url, [
    ['constant', complete],
    ['kept', complete],
    ['kept', complete, true],
  ])
  const [bundled = 0, unrecorded = 0] = await rates(url, [
    ['esquina', complete],
    ['esquina', await bundle(root, false)],
  ])
  row(
    `GET /posts, ${CONNECTIONS} connections, median of ${ROUNDS} × ${SECONDS} s`,
    'requests/s',
    'ratio',
    'goal',
  )
  row('  by hand (Hono, pg, template literals)', reference.toFixed(0), '1.00', '')
  row('  Esquina, no fragments', esquina.toFixed(0), (esquina / reference).toFixed(2), '≥ 0.80')
  row(
    '  Esquina, no fragments, every request walked',
    walked.toFixed(0),
    `${(walked / esquina).toFixed(2)} of the above`,
    '≥ 0.85',
  )
  row('  Esquina, no fragments, recording code removed', unrecorded.toFixed(0), '', '')
  row(
    '  Esquina, no fragments, recording off',
    bundled.toFixed(0),
    `${(bundled / unrecorded).toFixed(2)} of the above`,
    '≥ 0.97',
  )
  row('  Esquina, pages kept', kept.toFixed(0), (kept / reference).toFixed(2), '')
  const ratioTo = (one: number, other: number) => (one / other).toFixed(2)
  row('  a constant string of the same length, same server', constant.rate.toFixed(0), '1.00', '')
  row('  Esquina, pages kept, beside it', page.rate.toFixed(0), ratioTo(page.rate, constant.rate), '≥ 0.80')
  row(
    '  Esquina, pages kept, 99 of 100 answers',
    `${page.p99.toFixed(1)} ms`,
    ratioTo(page.p99, constant.p99),
    '≤ 3.00',
  )
  row(
    '  Esquina, pages kept, answered with 304',
    unchanged.rate.toFixed(0),
    ratioTo(unchanged.rate, constant.rate),
    '≥ 0.90',
  )
}

async function browser(workbench: string): Promise<void> {
  const chrome = await chromium.launch(CHROMIUM)
  const page = await (await chrome.newContext({ viewport: { width: 1280, height: 800 } })).newPage()
  let script = 0
  const reading: Promise<void>[] = []
  page.on('response', (response) => {
    if (!response.url().endsWith('.js')) return
    reading.push(response.body().then((body) => void (script += gzipSync(body).length)))
  })
  await page.goto(`${workbench}/sign-in?key=${KEY}`)
  await page.waitForURL('**/walk*')
  await page.getByRole('heading', { name: /^Response/ }).waitFor()
  await untilLoaded(page)
  await Promise.all(reading)
  row('first load of the workbench: script, gzip', `${(script / 1000).toFixed(0)} kB`, '', '≤ 380 kB')

  await page.getByRole('button', { name: 'Change what a card shows' }).click()
  await page.locator('.cm-content').click()
  const times: number[] = []
  for (let edit = 0; edit < EDITS; edit++) {
    await page.locator('.cm-line', { hasText: 'post.excerpt' }).first().click()
    await page.keyboard.press('End')
    await page.keyboard.type(`<i>edit ${edit}</i>`)
    const shown = page.evaluate(untilShown, `edit ${edit}`)
    await page.keyboard.press('Control+s')
    times.push(await shown)
  }
  await chrome.close()
  row(
    `save until the new page is shown, in Chromium, median of ${EDITS}`,
    `${median(times).toFixed(0)} ms`,
    `max ${Math.max(...times).toFixed(0)} ms`,
    '≤ 300 ms',
  )
}

/**
 * Runs in the workbench's page. Returns the milliseconds from the next Ctrl+S until the walked page with the text is
 * loaded with its styles and painted.
 */
const untilShown = (text: string) =>
  new Promise<number>((done) => {
    let began = Infinity
    window.addEventListener('keydown', (event) => {
      if (event.key === 's' && event.ctrlKey) began = Math.min(began, event.timeStamp)
    })
    const timer = setInterval(() => {
      const page = document.querySelector<HTMLIFrameElement>('.page-frame iframe[title]')?.contentDocument
      if (page?.readyState !== 'complete' || !page.body.textContent.includes(text)) return
      clearInterval(timer)
      requestAnimationFrame(() => requestAnimationFrame((now) => done(now - began)))
    }, 4)
  })

function routing(): void {
  const { match, reference, analysis, overlaps } = routingFigures()
  row(
    '200 routes: match one, median of 7 × 100,000',
    `${match.toFixed(2)} µs`,
    `${(match / reference).toFixed(2)} of one regexp`,
    '≤ 5 µs',
  )
  row(`200 routes: analysis with ${overlaps} overlaps`, `${analysis.toFixed(0)} ms`, '', '≤ 1000 ms')
}

async function templates(): Promise<void> {
  const measured = (await import(await bundled(root, 'templates'))) as {
    templateFigures: typeof templateFigures
  }
  const { program, liquid, hand } = measured.templateFigures()
  row('a list of 20 cards, rendered by liquidjs, median of 7', `${liquid.toFixed(0)} µs`, '', '')
  row('  by a template literal', `${hand.toFixed(0)} µs`, '', '')
  row('  by Esquina', `${program.toFixed(0)} µs`, `${(liquid / program).toFixed(1)} × as fast`, '≥ 20')
  row('', '', `${(hand / program).toFixed(2)} of the literal`, '≥ 0.50')
}

/** Runs `npm start` with everything installed and built. Returns the seconds until it is ready. */
async function secondsToStart(data: string): Promise<number> {
  const began = performance.now()
  const child = spawn(process.execPath, ['scripts/start.mjs'], {
    cwd: root,
    env: { ...process.env, ESQUINA_DATA: data, ESQUINA_PORT: '0', ESQUINA_BLOG_PORT: '0' },
  })
  let output = ''
  const collect = (chunk: Buffer) => (output += chunk.toString())
  child.stderr.on('data', collect)
  await new Promise<void>((done, fail) => {
    child.stdout.on('data', (chunk: Buffer) => collect(chunk).includes('Started in') && done())
    child.once('close', () => fail(new Error(`The server ended: ${output}`)))
  })
  const seconds = (performance.now() - began) / 1000
  child.kill('SIGTERM')
  await new Promise((done) => child.on('close', done))
  return seconds
}

export async function run(): Promise<void> {
  await buildIfStale(root)
  await bundleServer(root)
  const folder = mkdtempSync(join(tmpdir(), 'esquina-bench-'))
  chmodSync(folder, 0o755)
  try {
    row('', 'measured', 'ratio', 'goal')
    routing()
    await templates()
    const data = join(folder, 'start')
    await secondsToStart(data)
    const starts = [await secondsToStart(data), await secondsToStart(data), await secondsToStart(data)]
    row(
      'npm start, built and imported, median of 3',
      `${median(starts).toFixed(1)} s`,
      `max ${Math.max(...starts).toFixed(1)} s`,
      '≤ 5 s',
    )
    row('attacks, an ordinary reader beside each', 'median · p99', 'p99 to alone', '')
    for (const { what, value, ratio, answers } of await attackFigures(join(folder, 'attacks')))
      row(what, value, ratio, answers)
    const { url, running } = await demo(folder)
    // A signal must not leave PostgreSQL running.
    const stop = (signal: string) => {
      console.log(`\nStopping (${signal}) …`)
      void running.stop().finally(() => {
        rmSync(folder, { recursive: true, force: true })
        process.exit(130)
      })
    }
    for (const signal of SIGNALS) process.on(signal, stop)
    try {
      await throughput(url)
      await browser(running.workbench)
      row('copies', '', '', '')
      for (const { what, value, ratio, goal } of [
        ...purgeFigures(),
        ...memoryFigures(),
        ...(await precisionFigures(running.blogService)),
        ...(await processFigures(join(folder, 'processes'), await copiesOf(url, 3))),
      ])
        row(what, value, ratio, goal)
      row('writes', '', '', '')
      for (const { what, value, goal } of await writeFigures(running.blogService)) row(what, value, '', goal)
      row(`comments, medians of 21`, '', '', '')
      for (const { what, value, ratio, goal } of await commentFigures(running.blogService))
        row(what, value, ratio, goal)
      row('100,000 posts, median of 7', '', '', '')
      for (const { what, milliseconds, goal } of await contentFigures(running.blogService, url))
        row(what, `${milliseconds.toFixed(0)} ms`, '', goal)
      row(`listings of 100,000 and 1,000,000 posts, medians in turns`, '', '', '')
      for (const { what, measured, ratio, goal } of await listingFigures(running.blogService, console.log))
        row(what, measured, ratio, goal)
    } finally {
      for (const signal of SIGNALS) process.off(signal, stop)
      await running.stop()
    }
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}

/** Creates databases for the demo, which the processes that are measured import. */
async function copiesOf(url: string, count: number): Promise<[string, string, string]> {
  const client = new pg.Client({ connectionString: url })
  await client.connect()
  const urls: string[] = []
  for (let index = 0; index < count; index++) {
    const name = `processes_${index}`
    await client.query(`CREATE DATABASE ${name}`)
    const own = new URL(url)
    own.pathname = `/${name}`
    urls.push(own.toString())
  }
  await client.end()
  const [one = '', two = '', three = ''] = urls
  return [one, two, three]
}

/** Starts the demo. Returns it with the address of its database, for the other servers. */
async function demo(folder: string) {
  const running = await start({
    root,
    binaries: findBinaries(),
    data: join(folder, 'demo'),
    host: '127.0.0.1',
    port: 0,
    blogPort: 0,
    databaseUrl: undefined,
    key: KEY,
    firstBlog: 'demo/cobble-lane',
    say: () => undefined,
  })
  const options: unknown = running.blogService.database.options
  return { running, url: (options as { url: string }).url }
}
