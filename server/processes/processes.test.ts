// Several processes serve the blog, as a user starts them: kills, pauses and cut connections never bring back an old page.
import { spawn, type ChildProcess } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { setTimeout } from 'node:timers/promises'
import { afterAll, beforeAll, expect, it } from 'vitest'
import type { EdgeReport } from '../../contract/cache.ts'
import { freePort } from '../store/cluster.ts'
import { newDatabase } from '../testing/database.ts'
import { generator } from '../../core/caching/what-if/simulate.ts'
import { startRedis, type TestRedis } from '../testing/redis.ts'
import { SEED } from '../testing/seed.ts'
import { disturb, endConnections, JUMPING_CLOCK, readersOf, type Disturbed } from '../testing/disturbances.ts'

const PROCESSES = 3
const root = join(import.meta.dirname, '../..')
const data = mkdtempSync(join(tmpdir(), 'esquina-processes-'))
let child: ChildProcess
let target: Disturbed
let redis: TestRedis

/** Runs the start command until it says that it has started. */
async function launch(environment: Record<string, string>, ...words: string[]): Promise<ChildProcess> {
  const child = spawn(process.execPath, ['scripts/start.mjs', ...words], {
    cwd: root,
    env: { ...process.env, ...environment },
  })
  let output = ''
  child.stdout.on('data', (chunk: Buffer) => (output += chunk.toString()))
  child.stderr.on('data', (chunk: Buffer) => (output += chunk.toString()))
  while (!output.includes('Started in')) {
    if (child.exitCode !== null) throw new Error(output)
    await setTimeout(100)
  }
  return child
}

async function stop(child: ChildProcess): Promise<void> {
  const ended = new Promise((done) => child.on('close', done))
  child.kill('SIGTERM')
  await ended
}

beforeAll(async () => {
  const databaseUrl = await newDatabase()
  const port = await freePort()
  const blogPort = await freePort()
  redis = await startRedis()
  child = await launch({
    REDIS_URL: redis.url,
    ESQUINA_EDGE_PORT: '0',
    DATABASE_URL: databaseUrl,
    ESQUINA_DATA: data,
    ESQUINA_PORT: String(port),
    ESQUINA_BLOG_PORT: String(blogPort),
    ESQUINA_KEY: 'a-key',
    ESQUINA_PROCESSES: String(PROCESSES),
    ESQUINA_TRUSTED_PROXIES: '127.0.0.1',
    ...JUMPING_CLOCK,
  })
  target = {
    workbench: `http://127.0.0.1:${port}`,
    key: 'a-key',
    blogPort,
    databaseUrl,
    parent: child.pid ?? 0,
    hasJumpingClock: true,
  }
})
afterAll(async () => {
  for (const one of readersOf(target.parent)) process.kill(one, 'SIGCONT')
  await stop(child)
  await redis.kill()
  rmSync(data, { recursive: true })
})

const api = async <T>(method: string, path: string) => {
  const headers = { authorization: `Bearer ${target.key}` }
  return (await (await fetch(`${target.workbench}${path}`, { method, headers })).json()) as T
}
const copies = () =>
  api<{ copies: { name: string }[]; processes: number; shared: { put: number } | null }>('GET', '/api/copies')
/** Requests an address over new connections, which are given to one process after the other. */
const readAll = (path: string) =>
  Promise.all(
    Array.from({ length: PROCESSES }, async () => {
      const response = await fetch(`http://127.0.0.1:${target.blogPort}${path}`, {
        headers: { connection: 'close' },
      })
      return { status: response.status, body: await response.text() }
    }),
  )

it('the workbench sees the requests and the copies of all processes', async () => {
  expect(readersOf(target.parent)).toHaveLength(PROCESSES)
  for (let round = 0; round < 3; round++)
    for (const one of await readAll('/posts')) expect(one.status).toBe(200)
  const { copies: stored, processes } = await copies()
  expect(processes).toBe(PROCESSES)
  expect(stored.filter((one) => one.name === 'posts')).toHaveLength(PROCESSES)
  await expect
    .poll(
      async () =>
        (await api<{ target: string }[]>('GET', '/api/traffic')).filter((one) => one.target === '/posts')
          .length,
    )
    .toBe(9)
  await api('DELETE', '/api/copies')
  expect((await copies()).copies).toEqual([])
})

it('a process that is killed is started again', async () => {
  const [first = 0] = readersOf(target.parent)
  process.kill(first, 'SIGKILL')
  await expect.poll(() => readersOf(target.parent).includes(first)).toBe(false)
  await expect.poll(async () => (await copies()).processes, { timeout: 20_000 }).toBe(PROCESSES)
})

it('readers of another computer see an edit as soon as it is saved', { timeout: 60_000 }, async () => {
  const blogPort = await freePort()
  const others = await launch(
    {
      DATABASE_URL: target.databaseUrl,
      ESQUINA_DATA: join(data, 'others'),
      ESQUINA_BLOG_PORT: String(blogPort),
      ESQUINA_TRUSTED_PROXIES: '127.0.0.1',
    },
    '--readers',
  )
  const outcome = await disturb(
    { ...target, blogPort },
    { operations: 300, random: generator(1), disturbEvery: Infinity },
  )
  await stop(others)
  expect([outcome.stale, outcome.failed]).toEqual([[], {}])
  expect(outcome.edits).toBeGreaterThan(0)
})

it(
  'a process that was paused, and whose connections were cut, shows what was acknowledged in the meantime',
  { timeout: 60_000 },
  async () => {
    await expect.poll(async () => (await copies()).processes, { timeout: 20_000 }).toBe(PROCESSES)
    const [slug = ''] = /(?<=href="\/posts\/)[a-z0-9-]+/.exec((await readAll('/posts'))[0]?.body ?? '') ?? []
    // Each of them has a copy.
    for (let round = 0; round < 3; round++) await readAll(`/posts/${slug}`)
    const paused = readersOf(target.parent)
    for (const one of paused) process.kill(one, 'SIGSTOP')
    await endConnections(target.databaseUrl)
    const path = `content/posts/${slug}.md`
    const save = async () => {
      const { text, version } = await api<{ text: string; version: number }>(
        'GET',
        `/api/document?path=${path}`,
      )
      const saved = await fetch(`${target.workbench}/api/document`, {
        method: 'PUT',
        headers: { authorization: `Bearer ${target.key}`, 'content-type': 'application/json' },
        body: JSON.stringify({ path, version, text: text.replace(/^title: .*$/m, 'title: While paused') }),
      })
      return saved.ok
    }
    // Connections of the workbench were cut, too.
    await expect.poll(() => save().catch(() => false), { timeout: 10_000 }).toBe(true)
    const reading = readAll(`/posts/${slug}`)
    // They have arrived before the processes go on, and see that they have no connections.
    await setTimeout(100)
    for (const one of paused) process.kill(one, 'SIGCONT')
    for (const { status, body } of await reading) {
      expect(status).toBe(200)
      expect(body).toContain('While paused')
    }
  },
)

it(
  'no read shows less than was acknowledged, whatever happens to the processes',
  { timeout: 120_000 },
  async () => {
    const outcome = await disturb(target, {
      operations: 6_000,
      random: generator(SEED),
      disturbEvery: 600,
    })
    // Restarted processes take copies that others have rendered.
    expect((await copies()).shared?.put).toBeGreaterThan(0)
    expect(outcome.stale, `seed ${SEED}`).toEqual([])
    expect(outcome.edits).toBeGreaterThan(5)
    expect(outcome.hits).toBeGreaterThan(outcome.reads / 4)
    // Connections of killed processes, and pages while the connections to the database were cut.
    expect(Object.keys(outcome.failed).filter((status) => !['0', '503'].includes(status))).toEqual([])
    const failed = Object.values(outcome.failed).reduce((sum, one) => sum + one, 0)
    expect(failed).toBeLessThan(outcome.reads / 4)
    expect(Object.keys(outcome.disturbances).length).toBeGreaterThan(1)
  },
)

it(
  'no read through an edge cache shows less than was acknowledged, whatever happens to the processes',
  { timeout: 120_000 },
  async () => {
    await expect.poll(async () => (await copies()).processes, { timeout: 20_000 }).toBe(PROCESSES)
    const saved = await fetch(`${target.workbench}/api/document`, {
      method: 'PUT',
      headers: { authorization: `Bearer ${target.key}`, 'content-type': 'application/json' },
      body: JSON.stringify({ path: 'cache.yaml', text: 'edge: { lifetime: 10m }\n', version: 0 }),
    })
    expect(saved.status).toBe(200)
    const edge = () => api<EdgeReport>('GET', '/api/cache/edge')
    const { port } = new URL((await edge()).standIn?.origin ?? '')
    const outcome = await disturb(
      { ...target, blogPort: Number(port) },
      { operations: 4_000, random: generator(SEED + 1), disturbEvery: 600 },
    )
    expect(outcome.stale, `seed ${SEED + 1}`).toEqual([])
    expect(outcome.edits).toBeGreaterThan(5)
    expect((await edge()).standIn?.hits).toBeGreaterThan(outcome.reads / 4)
    expect(Object.keys(outcome.failed).filter((status) => !['0', '502', '503'].includes(status))).toEqual([])
  },
)
