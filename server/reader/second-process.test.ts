// A second process on the same database, which only reads, notices every change within a second, and stops trusting its
// copies while it does not hear from the database.
import { Client } from 'pg'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { loadSite } from '../publish/documents.ts'
import { openDatabase } from '../store/connection.ts'
import { administratorUrl, databaseUrl, quiet, testBlog, type TestBlog } from '../testing/database.ts'
import { success } from '../../core/shapes/outcome.ts'
import { LEASE_WAIT } from '../../core/caching/lease.ts'
import { editPost, saveTexts, textOf } from '../testing/edits.ts'
import { answer } from './answer.ts'
import { Blog } from './blog.ts'
import { blogListener } from './listener.ts'
import { internalRequest } from './request.ts'

let test: TestBlog
let second: Blog
let end: () => Promise<void>
let outside: Client

beforeAll(async () => {
  test = await testBlog()
  const database = await openDatabase(test.url)
  const site = await loadSite(database)
  if (!site.ok) throw new Error('The demo is not valid.')
  second = new Blog({ database, site: site.value, log: quiet })
  end = await second.follow()
  outside = new Client({ connectionString: test.url })
  await outside.connect()
})
afterAll(async () => {
  await outside.end()
  await end()
  await second.database.destroy()
  await test.close()
})

const read = async (path: string) => (await answer(second, internalRequest(path))).body
const hits = async (path: string) => {
  const { fragments, copy, headers } = await answer(second, internalRequest(path))
  // While the database is away, a copy may answer, but says so.
  const isMarked = headers['cache-status']?.includes('database away') === true
  return copy === 'hit' && !isMarked ? Infinity : fragments.filter((one) => one.outcome === 'hit').length
}

/** Waits at most a second, as the second process may. */
async function within(isSo: () => Promise<boolean>): Promise<boolean> {
  for (
    const start = performance.now();
    performance.now() - start < 1_000;
    await new Promise((done) => setTimeout(done, 20))
  )
    if (await isSo()) return true
  return false
}

it('notices what another process saves, and what is changed by SQL', async () => {
  await read('/posts')
  expect(await hits('/posts')).toBeGreaterThan(0)
  await outside.query(
    "UPDATE post SET title = 'Changed by hand' WHERE id = (SELECT id FROM post WHERE published_at <= now() ORDER BY published_at DESC, id DESC LIMIT 1)",
  )
  expect(await within(async () => (await read('/posts')).includes('Changed by hand'))).toBe(true)
})

it('shows a write of the other process as soon as it is acknowledged, from copies in between', async () => {
  let copies = 0
  for (let edit = 0; edit < 10; edit++) {
    await read('/posts')
    copies += Number((await hits('/posts')) === Infinity)
    const saved = await editPost(test.blog, 'moth', (text) =>
      text.replace(/^title: .*$/m, `title: Moth ${edit}`),
    )
    expect(saved.ok).toBe(true)
    expect(await read('/posts/moth')).toContain(`Moth ${edit}`)
  }
  expect(copies).toBe(10)
})

it('a write waits for a process that does not answer for as long as its lease can last', async () => {
  await read('/posts/moth')
  // The second process cannot record what it has seen, as if it were paused before that.
  await outside.query('BEGIN')
  await outside.query('LOCK TABLE copy_process IN SHARE ROW EXCLUSIVE MODE')
  // Without a lease, a request waits for the reading.
  const unlock = setTimeout(() => void outside.query('COMMIT'), 2_500)
  const start = performance.now()
  const saved = await editPost(test.blog, 'moth', (text) => text.replace(/^title: .*$/m, 'title: Moth, late'))
  const waited = performance.now() - start
  expect(saved.ok).toBe(true)
  expect(second.trustsCopies).toBe(false)
  expect(await read('/posts/moth')).toContain('Moth, late')
  clearTimeout(unlock)
  await outside.query('COMMIT')
  expect(waited).toBeGreaterThan(LEASE_WAIT)
  await expect.poll(() => second.trustsCopies, { timeout: 5_000 }).toBe(true)
})

it('a process that has ended is waited for once', async () => {
  await outside.query('INSERT INTO copy_process (id) VALUES (gen_random_uuid())')
  const edit = async (title: string) => {
    const start = performance.now()
    await editPost(test.blog, 'moth', (text) => text.replace(/^title: .*$/m, `title: ${title}`))
    return performance.now() - start
  }
  expect(await edit('Moth, alone')).toBeGreaterThan(LEASE_WAIT)
  expect(await edit('Moth, again')).toBeLessThan(LEASE_WAIT)
  // The one that answers is still there.
  expect((await outside.query('SELECT id FROM copy_process')).rowCount).toBe(1)
})

it('a clock that is set clears the copies of that process', async () => {
  await read('/posts')
  expect(await hits('/posts')).toBe(Infinity)
  const now = Date.now
  // Back, so that no copy is too old.
  Date.now = () => now() - 3_600_000
  try {
    expect(second.trustsCopies).toBe(false)
    expect(await hits('/posts')).not.toBe(Infinity)
    expect(now() - second.clock().getTime()).toBeGreaterThan(3_500_000)
    await expect.poll(() => second.trustsCopies).toBe(true)
    expect(await hits('/posts')).toBe(Infinity)
  } finally {
    Date.now = now
  }
  await expect.poll(() => Math.abs(second.clock().getTime() - Date.now()) < 1_000).toBe(true)
})

it('notices a definition that another process saves, or that is changed by SQL', async () => {
  const layout = 'templates/layouts/base.liquid'
  const text = await textOf(test.blog, layout)
  const saved = await saveTexts(test.blog, { [layout]: text.replace('</body>', '<!-- saved --></body>') })
  expect(saved.ok).toBe(true)
  expect(await within(async () => (await read('/posts')).includes('<!-- saved -->'))).toBe(true)
  await outside.query(
    "UPDATE document SET text = replace(text, '<!-- saved -->', '<!-- by hand -->') WHERE path = $1",
    [layout],
  )
  expect(await within(async () => (await read('/posts')).includes('<!-- by hand -->'))).toBe(true)
})

it('notices a definition that was saved between reading it and following', async () => {
  const site = await loadSite(second.database)
  if (!site.ok) throw new Error('The demo is not valid.')
  const third = new Blog({ database: second.database, site: site.value, log: quiet })
  await outside.query(
    "UPDATE document SET text = replace(text, '<!-- by hand -->', '<!-- meanwhile -->') WHERE path = 'templates/layouts/base.liquid'",
  )
  const stop = await third.follow()
  expect((await answer(third, internalRequest('/posts'))).body).toContain('<!-- meanwhile -->')
  await stop()
})

it('keeps the last valid definition when the one in the database is not valid', async () => {
  await outside.query("UPDATE document SET text = 'nonsense: [' WHERE path = 'queries/all-posts.yaml'")
  await second.catchUp()
  expect((await answer(second, internalRequest('/posts'))).status).toBe(200)
})

it('notices a replaced image', async () => {
  const image = async () => await (await blogListener(second).request('http://b.test/media/sign.svg')).text()
  const before = await image()
  await outside.query("UPDATE image SET bytes = $1, sha256 = 'other' WHERE name = 'sign.svg'", [
    Buffer.from('<svg/>'),
  ])
  expect(await within(async () => (await image()) === '<svg/>')).toBe(true)
  expect(before).not.toBe('<svg/>')
})

it('does not use its copies while it does not hear from the database, and drops what changed meanwhile', async () => {
  await read('/posts')
  expect(second.trustsCopies).toBe(true)
  const administrator = new Client({ connectionString: databaseUrl(administratorUrl(test.url), 'postgres') })
  await administrator.connect()
  // Its connection is cut, and no new one is accepted for a while.
  const name = new URL(test.url).pathname.slice(1)
  await administrator.query(`ALTER DATABASE ${name} ALLOW_CONNECTIONS false`)
  try {
    await administrator.query(
      "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE application_name = 'esquina follower' AND datname = $1",
      [name],
    )
    await new Promise((done) => setTimeout(done, 1_300))
    expect(second.trustsCopies).toBe(false)
    expect(await hits('/posts')).toBe(0)
    await outside.query(
      "UPDATE post SET title = 'While it was deaf' WHERE id = (SELECT id FROM post WHERE published_at <= now() ORDER BY published_at DESC, id DESC LIMIT 1)",
    )
  } finally {
    await administrator.query(`ALTER DATABASE ${name} ALLOW_CONNECTIONS true`)
    await administrator.end()
  }
  for (let waited = 0; !second.trustsCopies && waited < 5_000; waited += 50)
    await new Promise((done) => setTimeout(done, 50))
  expect(second.trustsCopies).toBe(true)
  expect(await read('/posts')).toContain('While it was deaf')
})

it('answers nothing, rather than an old page, while the database refuses it and others write', async () => {
  const { status } = await answer(second, internalRequest('/posts'))
  expect([status, await hits('/posts')]).toEqual([200, Infinity])
  const administrator = new Client({ connectionString: databaseUrl(administratorUrl(test.url), 'postgres') })
  await administrator.connect()
  const name = new URL(test.url).pathname.slice(1)
  // Too many connections (SQLSTATE 53300). Those that are open go on.
  await administrator.query(`ALTER DATABASE ${name} CONNECTION LIMIT 0`)
  try {
    await administrator.query(
      "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE application_name LIKE 'esquina%' AND datname = $1",
      [name],
    )
    await outside.query(
      "UPDATE post SET title = 'While it was refused' WHERE id = (SELECT id FROM post WHERE published_at <= now() ORDER BY published_at DESC, id DESC LIMIT 1)",
    )
    await new Promise((done) => setTimeout(done, 1_300))
    const refused = await answer(second, internalRequest('/posts'))
    expect([refused.status, refused.headers['cache-control']]).toEqual([503, 'no-store'])
    expect(await hits('/posts')).toBe(0)
  } finally {
    await administrator.query(`ALTER DATABASE ${name} CONNECTION LIMIT -1`)
    await administrator.end()
  }
  expect(await read('/posts')).toContain('While it was refused')
})

it('a write that changes nothing also waits until others have seen what it has found', async () => {
  await read('/posts/moth')
  // Readings of the second process stop here, and those that write do not.
  await outside.query('BEGIN')
  await outside.query('LOCK TABLE copy_process IN SHARE ROW EXCLUSIVE MODE')
  const unlock = setTimeout(() => void outside.query('COMMIT'), 2_500)
  const start = performance.now()
  expect((await test.blog.store.write(() => Promise.resolve(success(null)))).ok).toBe(true)
  expect(performance.now() - start).toBeGreaterThan(LEASE_WAIT)
  clearTimeout(unlock)
  await outside.query('COMMIT')
  await expect.poll(() => second.trustsCopies, { timeout: 5_000 }).toBe(true)
})

it('follows transactions that commit in another order than they began', async () => {
  const slow = new Client({ connectionString: test.url })
  await slow.connect()
  await slow.query('BEGIN')
  await slow.query("UPDATE tag SET name = 'First to begin' WHERE id = (SELECT min(id) FROM tag)")
  await outside.query("UPDATE tag SET name = 'Last to begin' WHERE id = (SELECT max(id) FROM tag)")
  await second.catchUp()
  const told: string[] = []
  const unwatch = second.watchChanges((what) => told.push(what))
  await slow.query('COMMIT')
  await slow.end()
  await second.catchUp()
  unwatch()
  expect(told).toEqual(['tags'])
})
