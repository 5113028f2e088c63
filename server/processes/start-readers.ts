/** Serves the readers of a blog whose workbench runs elsewhere, on the same database. */
import { mkdirSync } from 'node:fs'
import { describeProblem } from '../../core/shapes/problem.ts'
import { openLog } from '../log.ts'
import { readProxies } from '../reader/limits/reader-address.ts'
import { StartProblem } from '../start-problem.ts'
import { readReplicas } from './replicas.ts'
import { openDatabase } from '../store/connection.ts'
import { serveAll } from './serve-all.ts'
import { openBlog } from './serve-blog.ts'

export interface StartReadersOptions {
  databaseUrl: string
  /** Addresses of read replicas, separated by spaces or commas. */
  readUrls?: string | undefined
  redisUrl?: string | null
  /** The folder of the log. */
  data: string
  host: string
  blogPort: number
  trustedProxies?: string | undefined
  processes: number
  say(line: string): void
}

export async function startReaders(
  options: StartReadersOptions,
): Promise<{ blog: string; stop(): Promise<void> }> {
  const trustedProxies = options.trustedProxies ?? ''
  const proxies = readProxies(trustedProxies)
  if ('invalid' in proxies)
    throw new StartProblem(`ESQUINA_TRUSTED_PROXIES has “${proxies.invalid}”, which is not a network.`)
  const replicas = readReplicas(options.readUrls ?? '')
  const { redisUrl = null } = options
  mkdirSync(options.data, { recursive: true })
  const database = await openDatabase(options.databaseUrl)
  const { log, close: closeLog } = openLog(options.data)
  const opened = await openBlog(database, log, { replicas, redisUrl })
  if (!opened.ok) {
    await database.destroy()
    throw new StartProblem(
      `The stored definition is not valid. Start the workbench first.\n${(opened.problems ?? []).map(describeProblem).join('\n')}`,
    )
  }
  const { blog, close } = opened.value
  const served = await serveAll(blog, {
    count: options.processes,
    host: options.host,
    port: options.blogPort,
    replicas,
    redisUrl,
    proxies: proxies.proxies,
    trustedProxies,
    say: options.say,
  })
  const stop = async () => {
    await served.close()
    await close()
    await blog.notFound.flush().catch(() => undefined)
    await database.destroy()
    await closeLog()
  }
  return { blog: served.origin, stop }
}
