/** A signed-in workbench with its own blog, called without a network. */
import { join } from 'node:path'
import type { Hono } from 'hono'
import { copiesOfOne } from '../reader/copies.ts'
import { blogListener } from '../reader/listener.ts'
import { Checks } from '../checks/service.ts'
import { TemplatePreviews } from '../previews/template-previews.ts'
import { OwnIndexes } from '../store/indexes/own-indexes.ts'
import { GrowthJobs } from '../growth/job.ts'
import { keepIndexes } from '../growth/keep-indexes.ts'
import { workbenchListener } from '../workbench/listener.ts'
import { Mailer } from '../mail/mailer.ts'
import { testBlog, type TestBlog } from './database.ts'

export const HOST = '127.0.0.1:4310'
export const KEY = 'the-key'

export interface ApiAnswer<T> {
  status: number
  answer: T
  etag: string | null
}

export interface TestWorkbench extends TestBlog {
  app: Hono
  /** Sends a request to the blog, as readers and programs do. */
  readers: Hono
  checks: Checks
  previews: TemplatePreviews
  growth: GrowthJobs
  indexes: OwnIndexes
  mailer: Mailer
  /** Calls an operation of the API, signed in. */
  api<T = Record<string, unknown>>(
    method: string,
    path: string,
    body?: unknown,
    headers?: Record<string, string>,
  ): Promise<ApiAnswer<T>>
  /** Returns what readers get, without following redirects. */
  read(path: string): Promise<{ status: number; text: string; to: string | null }>
}

/** @param kind of the blog */
export async function testWorkbench(kind: 'demo' | 'blank' = 'demo'): Promise<TestWorkbench> {
  const test = await testBlog({}, kind)
  const checks = new Checks(test.blog)
  const previews = new TemplatePreviews(test.blog)
  const growth = new GrowthJobs(test.blog)
  const indexes = new OwnIndexes(test.database)
  const mailer = new Mailer(test.blog, {
    transport: {
      target: 'nowhere',
      send: () => Promise.resolve({ outcome: 'sent' }),
      close: () => undefined,
    },
    workbench: () => `http://${HOST}`,
  })
  const unwatch = keepIndexes(test.blog, indexes)
  const app = workbenchListener({
    blog: test.blog,
    checks,
    previews,
    growth,
    indexes,
    mailer,
    copies: copiesOfOne(test.blog),
    edge: { service: { state: null, clear: () => Promise.resolve(false) }, standIn: undefined },
    commentKeys: { test: KEY, other: null },
    key: KEY,
    hosts: [HOST],
    blogOrigin: 'http://127.0.0.1:4311',
    pages: '/nowhere',
    shipped: join(import.meta.dirname, '../../demo/cobble-lane'),
  })
  const readers = blogListener(test.blog)
  return {
    ...test,
    app,
    readers,
    checks,
    previews,
    growth,
    indexes,
    mailer,
    async api<T>(method: string, path: string, body?: unknown, headers: Record<string, string> = {}) {
      const response = await app.request(`http://${HOST}${path}`, {
        method,
        headers: {
          host: HOST,
          authorization: `Bearer ${KEY}`,
          ...(body === undefined ? {} : { 'content-type': 'application/json' }),
          ...headers,
        },
        ...(body === undefined ? {} : { body: JSON.stringify(body) }),
      })
      const answer = (await response.json()) as T
      return { status: response.status, answer, etag: response.headers.get('etag') }
    },
    async read(path) {
      const response = await readers.request(`http://b.test${path}`)
      return { status: response.status, text: await response.text(), to: response.headers.get('location') }
    },
    close: async () => {
      unwatch()
      await mailer.stop()
      await checks.stop()
      await previews.stop()
      await growth.cancel()
      await indexes.stop()
      await test.close()
    },
  }
}
