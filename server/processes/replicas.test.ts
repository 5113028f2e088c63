// A server that follows the database answers readers, and never with less than they have to see.
import { execFile } from 'node:child_process'
import { chownSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { Client } from 'pg'
import { afterAll, beforeAll, expect, it } from 'vitest'
import type { Log } from '../publish/ports.ts'
import { loadSite } from '../publish/documents.ts'
import {
  clusterFolder,
  findBinaries,
  freePort,
  serverUser,
  startCluster,
  type Cluster,
} from '../store/cluster.ts'
import { openDatabase } from '../store/connection.ts'
import { databaseUrl, importDemo, quiet } from '../testing/database.ts'
import { editPost } from '../testing/edits.ts'
import { answer } from '../reader/answer.ts'
import { Blog } from '../reader/blog.ts'
import { internalRequest } from '../reader/request.ts'
import { readReplicas } from './replicas.ts'

const run = promisify(execFile)
const user = serverUser()
const as = { cwd: '/', ...user }
const folder = mkdtempSync(join(tmpdir(), 'esquina-replica-'))
const replicaData = join(folder, 'replica')
const binaries = findBinaries() ?? ''

let primary: Cluster
let replicaUrl: string
let replicaPort: number
let replicaAdministrator: Client
let blog: Blog
let other: Blog
let endings: (() => Promise<void>)[]

const startReplica = () =>
  run(
    join(binaries, 'pg_ctl'),
    [
      '-D',
      replicaData,
      '-l',
      join(folder, 'replica.log'),
      '-o',
      `-c port=${replicaPort} -c listen_addresses=127.0.0.1 -c unix_socket_directories= -c max_connections=60 -c fsync=off`,
      '-w',
      '-s',
      'start',
    ],
    as,
  )
const stopReplica = () =>
  run(join(binaries, 'pg_ctl'), ['-D', replicaData, '-m', 'immediate', '-w', '-s', 'stop'], as)

async function opened(replicas: readonly string[], log: Log = quiet): Promise<Blog> {
  const database = await openDatabase(primary.url)
  const site = await loadSite(database)
  if (!site.ok) throw new Error('The demo is not valid.')
  const one = new Blog({ database, site: site.value, log, replicas })
  const end = await one.follow()
  endings.push(async () => {
    await end()
    await one.stop()
    await database.destroy()
  })
  return one
}

beforeAll(async () => {
  if (user) chownSync(folder, user.uid, user.gid)
  primary = await startCluster({ folder: clusterFolder(join(folder, 'primary')), binaries, throwaway: true })
  await importDemo(primary.url)
  const { port, username, password } = new URL(primary.administratorUrl('postgres'))
  await run(
    join(binaries, 'pg_basebackup'),
    [
      '-h',
      '127.0.0.1',
      '-p',
      port,
      '-U',
      username,
      '-D',
      replicaData,
      '-R',
      '-X',
      'stream',
      '-c',
      'fast',
      '--no-sync',
    ],
    { ...as, env: { ...process.env, PGPASSWORD: password } },
  )
  replicaPort = await freePort()
  await startReplica()
  const at = (url: string) => url.replace(`:${port}/`, `:${replicaPort}/`)
  replicaUrl = at(primary.url)
  replicaAdministrator = new Client({ connectionString: at(primary.administratorUrl('esquina')) })
  replicaAdministrator.on('error', () => undefined)
  await replicaAdministrator.connect()
  endings = []
  blog = await opened([replicaUrl])
  other = await opened([replicaUrl])
})
afterAll(async () => {
  await replicaAdministrator.end().catch(() => undefined)
  for (const end of endings) await end()
  await stopReplica()
  await primary.stop()
  rmSync(folder, { recursive: true })
})

/** Whether queries of readers run on the replica now. */
const usesReplica = async (one: Blog) =>
  (await one.pool.query<{ is: boolean }>('SELECT pg_is_in_recovery() AS is')).rows[0]?.is
const page = async (one: Blog) => (await answer(one, internalRequest('/posts/moth'))).body
const edit = async (title: string) => {
  const saved = await editPost(blog, 'moth', (text) => text.replace(/^title: .*$/m, `title: ${title}`))
  expect(saved.ok).toBe(true)
}
const replay = (what: 'pause' | 'resume') => replicaAdministrator.query(`SELECT pg_wal_replay_${what}()`)

it('answers queries of readers, and changes nothing', async () => {
  await expect.poll(() => usesReplica(blog)).toBe(true)
  await expect.poll(() => usesReplica(other)).toBe(true)
  expect((await answer(blog, internalRequest('/posts'))).status).toBe(200)
  const name = 'SELECT count(*) FROM setting'
  expect((await blog.pool.query(name)).rows).toEqual((await blog.database.query(name)) as unknown[])
})

it('shows each write at once, to those who made it and to others, while the replica follows late', async () => {
  let fromReplica = 0
  for (let number = 0; number < 18; number++) {
    await edit(`Moth ${number}`)
    expect(await page(blog)).toContain(`Moth ${number}`)
    expect(await page(other)).toContain(`Moth ${number}`)
    await new Promise((done) => setTimeout(done, [0, 30, 1_000][number % 3]))
    fromReplica += Number(await usesReplica(other))
  }
  expect(fromReplica).toBeGreaterThan(2)
})

it('is not used while it lacks a write, and again once it has it', async () => {
  await expect.poll(() => usesReplica(blog)).toBe(true)
  await replay('pause')
  await edit('Moth, while the replica stood still')
  for (const one of [blog, other]) {
    expect(await page(one)).toContain('while the replica stood still')
    expect(await usesReplica(one)).toBe(false)
  }
  await new Promise((done) => setTimeout(done, 500))
  expect(await usesReplica(blog)).toBe(false)
  await replay('resume')
  await expect.poll(() => usesReplica(blog), { timeout: 5_000 }).toBe(true)
  await expect.poll(() => usesReplica(other), { timeout: 5_000 }).toBe(true)
  expect(await page(other)).toContain('while the replica stood still')
})

it('may end at any time, and come back', async () => {
  await expect.poll(() => usesReplica(blog)).toBe(true)
  await stopReplica()
  for (let number = 0; number < 5; number++) {
    await edit(`Moth alone ${number}`)
    for (const one of [blog, other]) expect(await page(one)).toContain(`Moth alone ${number}`)
  }
  expect(await usesReplica(blog)).toBe(false)
  await startReplica()
  await expect.poll(() => usesReplica(blog), { timeout: 10_000 }).toBe(true)
  expect(await page(blog)).toContain('Moth alone 4')
})

it('does not use other servers and other databases, and logs why', async () => {
  const other = databaseUrl(replicaUrl, 'postgres')
  const reasons: unknown[] = []
  const log = { ...quiet, error: (details: object) => reasons.push(details) }
  const wrong = await opened([primary.url, 'postgres://nobody@127.0.0.1:1/none', other], log)
  await new Promise((done) => setTimeout(done, 300))
  expect(await page(wrong)).toContain('Moth')
  const { rows } = await wrong.pool.query<{ port: number }>('SELECT inet_server_port() AS port')
  expect(rows[0]?.port).toBe(Number(new URL(primary.url).port))
  expect(reasons).toContainEqual({ replica: 1, reason: 'The server is not a standby.' })
  expect(reasons).toContainEqual({ replica: 2, reason: expect.stringContaining('ECONNREFUSED') as unknown })
  expect(reasons).toContainEqual({ replica: 3, reason: 'It is a standby of another database.' })
  expect(reasons).toHaveLength(3)
})

it('says which address is wrong, without its password', () => {
  expect(readReplicas('postgres://a@b/c, postgresql://d@e/f')).toHaveLength(2)
  expect(readReplicas('')).toEqual([])
  const wrong = () => readReplicas('postgres://a@b/c secret:hidden@replica')
  expect(wrong).toThrow(/address 2 is not the address of a PostgreSQL server/)
  expect(wrong).not.toThrow(/hidden/)
})
