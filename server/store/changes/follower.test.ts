// The follower of the change log.
import { Client } from 'pg'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { testBlog, type TestBlog } from '../../testing/database.ts'
import { Follower } from './follower.ts'
import type { LoggedChanges } from './read-log.ts'

let test: TestBlog
let outside: Client

beforeAll(async () => {
  test = await testBlog()
  outside = new Client({ connectionString: test.url })
  await outside.connect()
})
afterAll(async () => {
  await outside.end()
  await test.close()
})

it('applies changes again after a failure, and does not renew the lease before', async () => {
  let fails = 0
  const tried: (string | undefined)[] = []
  const follower = new Follower({
    url: test.url,
    id: '00000000-0000-4000-8000-000000000001',
    isOwn: () => false,
    apply: (changes: LoggedChanges | null) => {
      const title = changes?.rows[0]?.after?.['title']
      tried.push(typeof title === 'string' ? title : undefined)
      if (fails-- > 0) return Promise.reject(new Error('It cannot be applied now.'))
      return Promise.resolve()
    },
    reading: () => () => undefined,
    clockChanged: () => undefined,
    failed: () => undefined,
  })
  await follower.start()
  // While an older transaction runs, readings overlap.
  const older = new Client({ connectionString: test.url })
  await older.connect()
  await older.query('BEGIN')
  await older.query('SELECT pg_current_xact_id()')
  fails = 2
  await outside.query("UPDATE post SET title = 'Applied in the end' WHERE slug = 'moth'")
  await expect.poll(() => tried.length, { timeout: 5_000 }).toBe(1)
  await expect.poll(() => follower.isCurrent, { timeout: 5_000 }).toBe(false)
  await expect.poll(() => tried.length, { timeout: 10_000 }).toBe(3)
  await expect.poll(() => follower.isCurrent, { timeout: 5_000 }).toBe(true)
  expect(tried).toEqual(Array(3).fill('Applied in the end'))
  await older.end()
  await follower.stop()
})
