/** Starts the product with its settings, prints its addresses, and stops it on a signal. */
import { findBinaries } from '../server/store/cluster.ts'
import type { StartReadersOptions } from '../server/processes/start-readers.ts'
import { StartProblem } from '../server/start-problem.ts'
import { installPackages, preventDebianCluster } from './debian.ts'
import { root } from './dependencies.mjs'
import { buildIfStale } from './front-end.ts'
import { bundledServer } from './bundles.ts'

const environment = process.env

/** The bundle has a class of its own. */
const isStartProblem = (error: unknown): error is StartProblem =>
  error instanceof Error && error.name === StartProblem.name

function portFrom(name: string, fallback: number): number {
  const text = environment[name]
  if (text === undefined || text === '') return fallback
  if (/^\d{1,5}$/.test(text) && Number(text) <= 65535) return Number(text)
  throw new StartProblem(`${name} is “${text}”, which is not a port. Use a number from 0 to 65535.`)
}

/** More would only wait for each other. */
const MOST_PROCESSES = 64

function processesFrom(name: string): number {
  const text = environment[name]
  if (text === undefined || text === '') return 1
  const count = Number(text)
  if (/^[1-9]\d?$/.test(text) && count <= MOST_PROCESSES) return count
  throw new StartProblem(
    `${name} is “${text}”, which is not a number of processes. Use a number from 1 to ${MOST_PROCESSES}.`,
  )
}

function edgePurgeFrom({
  EDGE_PURGE_URL: url,
  EDGE_PURGE_KEY: key,
}: NodeJS.ProcessEnv): { url: string; key: string | undefined } | undefined {
  if (url === undefined || url === '') return undefined
  if (!URL.canParse(url) || !/^https?:$/.test(new URL(url).protocol))
    throw new StartProblem('EDGE_PURGE_URL is not an address such as https://cache.example/purge.')
  return { url, key: key || undefined }
}

function redisUrlFrom({ REDIS_URL: url }: NodeJS.ProcessEnv): string | null {
  if (url === undefined || url === '') return null
  if (!URL.canParse(url) || !/^rediss?:$/.test(new URL(url).protocol))
    throw new StartProblem('REDIS_URL is not an address such as redis://127.0.0.1:6379.')
  return url
}

function serverBinaries(): string {
  const found = findBinaries()
  if (found !== undefined) return found
  preventDebianCluster()
  const advice = installPackages(['postgresql'], 'PostgreSQL’s server is missing.')
  const installed = findBinaries()
  if (installed === undefined)
    throw new StartProblem(advice ?? 'PostgreSQL was installed, but its programs were not found.')
  return installed
}

const ARGUMENTS = ['--blank', '--readers']

const secondsSince = (began: number) => ((performance.now() - began) / 1000).toFixed(1)

function readersOptions(databaseUrl: string | undefined): StartReadersOptions {
  if (databaseUrl === undefined)
    throw new StartProblem(
      '--readers needs DATABASE_URL: the database of a blog whose workbench runs elsewhere.',
    )
  return {
    databaseUrl,
    readUrls: environment['DATABASE_READ_URLS'] || undefined,
    redisUrl: redisUrlFrom(environment),
    data: environment['ESQUINA_DATA'] || '.esquina-readers',
    host: environment['ESQUINA_HOST'] || '127.0.0.1',
    blogPort: portFrom('ESQUINA_BLOG_PORT', 4311),
    trustedProxies: environment['ESQUINA_TRUSTED_PROXIES'] || undefined,
    processes: processesFrom('ESQUINA_PROCESSES'),
    say: (line) => console.log(line),
  }
}

/** @param began start time, from `performance.now()` */
export async function run(began: number): Promise<void> {
  let stopping = false
  let starting: Promise<{ stop(): Promise<void> }> | undefined
  const end = (signal: string) => {
    if (stopping) return
    stopping = true
    console.log(`\nStopping (${signal}) …`)
    // Also during the start: whatever is running by then is stopped.
    const stopped = starting?.then((running) => running.stop()) ?? Promise.resolve()
    stopped.then(
      () => process.exit(0),
      (error: unknown) => {
        console.error(error)
        process.exit(1)
      },
    )
  }
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'] as const) process.on(signal, () => end(signal))
  try {
    const unknown = process.argv.slice(2).filter((one) => !ARGUMENTS.includes(one))
    if (unknown.length > 0)
      throw new StartProblem(
        `Unknown argument “${unknown.join(' ')}”. Known: --blank (start with an empty blog), --readers (serve readers only, without the workbench).`,
      )
    const databaseUrl = environment['DATABASE_URL'] || undefined
    if (process.argv.includes('--readers')) {
      const { startReaders } = await bundledServer(root)
      const serving = startReaders(readersOptions(databaseUrl))
      starting = serving
      const { blog } = await serving
      if (stopping) return
      console.log(`\n  Blog       ${blog}/\n\nStarted in ${secondsSince(began)} s. Ctrl-C stops it.`)
      return
    }
    const binaries = databaseUrl === undefined ? serverBinaries() : undefined
    const blank = process.argv.includes('--blank')
    const { start } = await bundledServer(root)
    const whole = start({
      root,
      binaries,
      data: environment['ESQUINA_DATA'] || '.esquina',
      host: environment['ESQUINA_HOST'] || '127.0.0.1',
      port: portFrom('ESQUINA_PORT', 4310),
      blogPort: portFrom('ESQUINA_BLOG_PORT', 4311),
      databaseUrl,
      readUrls: environment['DATABASE_READ_URLS'] || undefined,
      redisUrl: redisUrlFrom(environment),
      trustedProxies: environment['ESQUINA_TRUSTED_PROXIES'] || undefined,
      commentServiceKey: environment['COMMENT_SERVICE_KEY'] || undefined,
      edgePort: portFrom('ESQUINA_EDGE_PORT', 4312),
      edgePurge: edgePurgeFrom(environment),
      smtpUrl: environment['SMTP_URL'] || undefined,
      key: environment['ESQUINA_KEY'] || undefined,
      processes: processesFrom('ESQUINA_PROCESSES'),
      firstBlog: blank ? 'demo/blank' : 'demo/cobble-lane',
      ...(blank
        ? {
            sayWhenFull:
              'This database already has a blog, so --blank has no effect. For an empty blog, run: ESQUINA_DATA=.esquina-blank npm start -- --blank',
          }
        : {}),
      say: (line) => console.log(line),
    })
    starting = whole
    const [running, built] = await Promise.all([whole, buildIfStale(root)])
    if (stopping) return
    if (built) console.log('Built the workbench.')
    console.log(`
  Workbench  ${running.workbench}/sign-in?key=${encodeURIComponent(running.key)}
  Blog       ${running.blog}/

Started in ${secondsSince(began)} s. Ctrl-C stops everything.`)
  } catch (error) {
    if (stopping) return
    console.error(isStartProblem(error) ? error.message : error)
    process.exit(1)
  }
}
