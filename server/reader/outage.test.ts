// An outage of the database, and recovery.
import { setTimeout } from 'node:timers/promises'
import { Client } from 'pg'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { databaseUrl, testBlog, type TestBlog } from '../testing/database.ts'
import { blogListener } from './listener.ts'

let test: TestBlog
beforeAll(async () => {
  test = await testBlog()
})
afterAll(() => test.close())

async function administrator(work: (client: Client, name: string) => Promise<unknown>): Promise<void> {
  const client = new Client({
    connectionString: databaseUrl(process.env['ESQUINA_TEST_ADMINISTRATOR'] ?? '', 'postgres'),
  })
  await client.connect()
  await work(client, new URL(test.url).pathname.slice(1))
  await client.end()
}

it('during an outage, kept pages are served and marked, others answer 503, and the blog recovers', async () => {
  const app = blogListener(test.blog)
  const get = (path: string) => app.request(`http://blog.test${path}`)
  // In the product, changes by other processes are followed, and the database is known to be away.
  const end = await test.blog.follow()
  expect((await get('/posts')).status).toBe(200)
  await administrator(async (client, name) => {
    await client.query(`ALTER DATABASE ${name} ALLOW_CONNECTIONS false`)
    await client.query('SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = $1', [name])
  })
  for (let attempt = 0; attempt < 3; attempt++) {
    const response = await get('/posts?page=2')
    expect(response.status).toBe(503)
    expect(response.headers.get('retry-after')).toBe('5')
    expect(await response.text()).toContain('Back in a moment')
  }
  await setTimeout(1_200)
  const kept = await get('/posts')
  expect([kept.status, kept.headers.get('cache-status')]).toEqual([
    200,
    expect.stringMatching(/^esquina-pages; hit; ttl=\d+; detail="database away"$/),
  ])
  expect((await get('/healthz')).status).toBe(503)
  expect((await get('/media/sign.svg')).status).toBe(503)
  await administrator((client, name) => client.query(`ALTER DATABASE ${name} ALLOW_CONNECTIONS true`))
  expect((await get('/posts')).status).toBe(200)
  expect(await (await get('/healthz')).json()).toEqual({ status: 'ok' })
  await end()
})
