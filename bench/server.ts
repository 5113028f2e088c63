/** One of the measured servers, as a separate process: `server.ts KIND DATABASE_URL PORT`. */
import { createServer } from 'node:http'
import { getRequestListener } from '@hono/node-server'
import { Hono } from 'hono'
import pg from 'pg'
import { answer } from '../server/reader/answer.ts'
import { Blog } from '../server/reader/blog.ts'
import { blogListener } from '../server/reader/listener.ts'
import { readRequest } from '../server/reader/request.ts'
import { Walk } from '../server/reader/walk/walk.ts'
import { loadSite } from '../server/publish/documents.ts'
import { openDatabase } from '../server/store/connection.ts'
import { referenceApp } from './reference/posts.ts'

const [kind = '', url = '', port = ''] = process.argv.slice(2)

async function app(): Promise<Hono> {
  if (kind === 'reference') return referenceApp(new pg.Pool({ connectionString: url, max: 10 }))
  const database = await openDatabase(url)
  const site = await loadSite(database)
  if (!site.ok) throw new Error(JSON.stringify(site.problems))
  const log = { info: () => undefined, error: (details: object) => console.error(details) }
  const blog = new Blog({
    database,
    site: site.value,
    log,
    ...(kind === 'kept' ? {} : { fragments: 'off' as const }),
  })
  if (kind === 'constant') return await constantApp(blogListener(blog))
  if (kind !== 'walked') return blogListener(blog)
  const walked = new Hono()
  walked.all('*', async (context) => {
    const request = readRequest(context.req.raw)
    const { status, headers, body } = await answer(
      blog,
      request,
      new Walk(request, new Date(), blog.site.version),
    )
    return new Response(body, { status, headers })
  })
  return walked
}

/** Answers with the page as a constant string and the same headers, from the same server. */
async function constantApp(blog: Hono): Promise<Hono> {
  const page = await blog.request('http://127.0.0.1/posts')
  const text = await page.text()
  const headers = Object.fromEntries(page.headers)
  const constant = new Hono()
  constant.all('*', () => new Response(text, { headers }))
  return constant
}

const listener = getRequestListener((await app()).fetch)
createServer((request, response) => void listener(request, response)).listen(Number(port), '127.0.0.1', () =>
  console.log('ready'),
)
