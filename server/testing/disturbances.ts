/**
 * Random operations on a blog that several processes serve: edits, reads, and disturbances of the processes. A read that
 * begins after an edit was acknowledged has to show it.
 */
import { readFileSync } from 'node:fs'
import { Agent, request } from 'node:http'
import { setTimeout } from 'node:timers/promises'
import { Client } from 'pg'

export interface Disturbed {
  workbench: string
  key: string
  /** Trusts the local address as a proxy. */
  blogPort: number
  databaseUrl: string
  /** The process that has started those which serve readers. */
  parent: number
  /** Whether it was started with `JUMPING_CLOCK`. */
  hasJumpingClock: boolean
}

/** Variables of the environment with which the clock of a process jumps at SIGUSR2. */
export const JUMPING_CLOCK = {
  NODE_OPTIONS: `--import=${new URL('./jumping-clock.mjs', import.meta.url).href}`,
}

export interface Outcome {
  reads: number
  /** Answers from a copy of the whole page. */
  hits: number
  edits: number
  /** Reads that showed less than was acknowledged before they began. */
  stale: string[]
  /** Answers without a page, by their status; 0 for a connection of a killed process. */
  failed: Record<string, number>
  disturbances: Record<string, number>
  /** How long edits took, in milliseconds, sorted. */
  editTimes: number[]
}

/** Posts on the first page of the listing. Their titles are changed to `Edit POST NUMBER.` */
const EDITED = 3
const TITLE = /Edit ([a-z0-9-]+) (\d+)\./g

/** Returns the processes that serve readers. */
export const readersOf = (parent: number): number[] =>
  readFileSync(`/proc/${parent}/task/${parent}/children`, 'utf8')
    .split(' ')
    .filter((one) => one !== '')
    .map(Number)
    .filter((pid) => readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('reader-process'))

/** Ends connections of the product to a database, as an administrator may. @param which as a condition */
export async function endConnections(database: string | Client, which = 'true'): Promise<void> {
  const client = typeof database === 'string' ? new Client({ connectionString: database }) : database
  if (typeof database === 'string') await client.connect()
  await client.query(
    `SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = current_database()
      AND pid <> pg_backend_pid() AND application_name LIKE 'esquina%' AND ${which}`,
  )
  if (typeof database === 'string') await client.end()
}

export async function disturb(
  target: Disturbed,
  {
    operations,
    random,
    disturbEvery,
    readers = 8,
  }: {
    operations: number
    /** Returns numbers from 0 to 1. */
    random: () => number
    /** How many operations there are between two disturbances. */
    disturbEvery: number
    /** How many reads run at the same time. */
    readers?: number
  },
): Promise<Outcome> {
  const outcome: Outcome = {
    reads: 0,
    hits: 0,
    edits: 0,
    stale: [],
    failed: {},
    disturbances: {},
    editTimes: [],
  }
  const database = new Client({ connectionString: target.databaseUrl })
  database.on('error', () => undefined)
  await database.connect()
  const { rows } = await database.query<{ slug: string }>(
    'SELECT slug FROM post WHERE published_at <= now() ORDER BY published_at DESC, id DESC LIMIT $1',
    [EDITED],
  )
  const posts = rows.map((one) => one.slug)
  /** Post → the number of its latest acknowledged edit. */
  const acknowledged = new Map(posts.map((slug) => [slug, 0]))
  const below = (limit: number) => Math.floor(random() * limit)
  let left = operations
  const paused = new Set<number>()

  async function edit(): Promise<void> {
    const slug = posts[below(posts.length)] ?? ''
    const number = (acknowledged.get(slug) ?? 0) + 1
    const path = `content/posts/${slug}.md`
    const api = (method: string, query: string, body?: object) =>
      fetch(`${target.workbench}/api/document${query}`, {
        method,
        headers: { authorization: `Bearer ${target.key}`, 'content-type': 'application/json' },
        ...(body ? { body: JSON.stringify(body) } : {}),
      })
    const stored = (await (await api('GET', `?path=${path}`)).json()) as { text: string; version: number }
    const text = stored.text.replace(/^title: .*$/m, `title: Edit ${slug} ${number}.`)
    const start = performance.now()
    const saved = await api('PUT', '', { path, text, version: stored.version })
    if (!saved.ok) throw new Error(`The edit failed: ${saved.status} ${await saved.text()}`)
    outcome.editTimes.push(performance.now() - start)
    acknowledged.set(slug, number)
    outcome.edits++
  }

  async function read(agent: Agent): Promise<void> {
    const slug = posts[below(posts.length)] ?? ''
    const path = ['/posts', '/', `/posts/${slug}`][below(3)] ?? '/'
    const expected = new Map(acknowledged)
    // Many readers: one alone could not ask for so much.
    const client = `10.${below(250)}.${below(250)}.1`
    const answer = await get(target.blogPort, path, agent, client).catch(() => undefined)
    outcome.reads++
    if (answer?.status !== 200) {
      const status = answer?.status ?? 0
      outcome.failed[status] = (outcome.failed[status] ?? 0) + 1
      return
    }
    if (answer.cacheStatus.includes('esquina-pages; hit')) outcome.hits++
    for (const [, shown = '', number = ''] of answer.body.matchAll(TITLE))
      if (Number(number) < (expected.get(shown) ?? 0))
        outcome.stale.push(
          `${path} shows edit ${number} of ${shown}, after ${expected.get(shown)} (${answer.cacheStatus})`,
        )
    const own = path.startsWith('/posts/') ? [slug] : path === '/posts' ? posts : []
    for (const one of own)
      if ((expected.get(one) ?? 0) > 0 && !answer.body.includes(`Edit ${one} `))
        outcome.stale.push(
          `${path} shows no edit of ${one}, after ${expected.get(one)} (${answer.cacheStatus})`,
        )
  }

  /** Accepts no new connections for a while, as a server with too many of them, and cuts those that are open. */
  async function refuse(): Promise<void> {
    const { rows } = await database.query<{ name: string }>('SELECT quote_ident(current_database()) AS name')
    const limit = (most: number) => database.query(`ALTER DATABASE ${rows[0]?.name} CONNECTION LIMIT ${most}`)
    await limit(0)
    await endConnections(database)
    await setTimeout(below(1_500))
    await limit(-1)
  }

  async function disturbOnce(): Promise<void> {
    const kinds = ['kill', 'pause', 'cut', 'cut all', 'refuse', ...(target.hasJumpingClock ? ['clock'] : [])]
    const kind = kinds[below(kinds.length)] ?? ''
    const pids = readersOf(target.parent).filter((one) => !paused.has(one))
    const pid = pids[below(pids.length)]
    outcome.disturbances[kind] = (outcome.disturbances[kind] ?? 0) + 1
    if (kind === 'refuse') await refuse()
    else if (kind.startsWith('cut'))
      await endConnections(database, kind === 'cut' ? "application_name = 'esquina follower'" : 'true')
    // One process at least goes on.
    else if (pid === undefined || pids.length < 2) return
    else if (kind === 'kill') process.kill(pid, 'SIGKILL')
    else if (kind === 'clock') process.kill(pid, 'SIGUSR2')
    else {
      paused.add(pid)
      process.kill(pid, 'SIGSTOP')
      await setTimeout(200 + below(3_000))
      paused.delete(pid)
      try {
        process.kill(pid, 'SIGCONT')
      } catch {
        // It was killed in the meantime.
      }
    }
  }

  let disturbing: Promise<void> = Promise.resolve()
  const editing = async () => {
    while (left > 0) {
      left--
      // A connection of the workbench may have been cut: the edit is tried again.
      await edit().catch(() => setTimeout(20))
      await setTimeout(below(15))
    }
  }
  const reading = async () => {
    let agent = new Agent({ keepAlive: true, maxSockets: 1 })
    while (left > 0) {
      left--
      if (left % disturbEvery === 0) {
        const before = disturbing
        disturbing = before.then(disturbOnce)
      }
      await read(agent)
      // Another connection leads to another process.
      if (random() < 0.05) {
        agent.destroy()
        agent = new Agent({ keepAlive: true, maxSockets: 1 })
      }
    }
    agent.destroy()
  }
  await Promise.all([editing(), ...Array.from({ length: readers }, reading)])
  await disturbing
  await database.end()
  outcome.editTimes.sort((a, b) => a - b)
  return outcome
}

function get(
  port: number,
  path: string,
  agent: Agent,
  client: string,
): Promise<{ status: number; body: string; cacheStatus: string }> {
  return new Promise((done, fail) => {
    const headers = { 'x-forwarded-for': client }
    const sent = request({ host: '127.0.0.1', port, path, agent, headers, timeout: 10_000 }, (response) => {
      const chunks: Buffer[] = []
      response.on('data', (chunk: Buffer) => chunks.push(chunk))
      response.on('error', fail)
      response.on('end', () =>
        done({
          status: response.statusCode ?? 0,
          body: Buffer.concat(chunks).toString(),
          cacheStatus: String(response.headers['cache-status']),
        }),
      )
    })
    sent.on('timeout', () => sent.destroy(new Error('no answer')))
    sent.on('error', fail)
    sent.end()
  })
}
