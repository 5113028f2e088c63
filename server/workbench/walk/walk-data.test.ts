// A walk of a JSON response: the same response as over HTTP, with the same stages as a page.
import { afterAll, beforeAll, expect, it } from 'vitest'
import { testWorkbench, type TestWorkbench } from '../../testing/workbench.ts'
import type { QueryPlan } from '../../../contract/queries.ts'
import type { WalkRecord } from '../../../contract/walk-record.ts'
import type { TrafficItem } from '../../../contract/walk.ts'

let test: TestWorkbench
beforeAll(async () => (test = await testWorkbench()))
afterAll(() => test.close())

const walk = async (path: string, accepts: 'html' | 'json' = 'json') =>
  (await test.api<WalkRecord>('GET', `/api/walk?path=${encodeURIComponent(path)}&accepts=${accepts}`)).answer
const ask = (path: string) => test.readers.request(path, { headers: { accept: 'application/json' } })

it.each(['/posts', '/posts?page=2', '/category/bicycles', '/archive', '/posts/moth'])(
  '%s: the same JSON as over HTTP',
  async (path) => {
    const record = await walk(path)
    const answer = await ask(path)
    expect(record.response.body).toBe(await answer.text())
    const {
      'server-timing': timing,
      'cache-status': bypass,
      // Sent once a second has passed since the last change.
      'last-modified': _early,
      ...walked
    } = record.response.headers
    const {
      'server-timing': _,
      'cache-status': stored,
      'last-modified': _late,
      ...sent
    } = Object.fromEntries(answer.headers)
    expect([bypass, stored]).toEqual(['esquina-pages; fwd=bypass', 'esquina-pages; fwd=miss; stored'])
    expect(walked).toEqual(sent)
    expect(timing).toMatch(/^total;dur=/)
    expect(record.accepts).toBe('json')
    expect(record.route.json).toBe(true)
    expect(record.templates.page).toBeNull()
    const page = await walk(path, 'html')
    expect(page.response.headers['content-type']).toContain('text/html')
    // All data of the route in order, each with its statements, and each parameter of the address once.
    const body = JSON.parse(record.response.body) as object
    expect(record.queries.runs.map((one) => one.data)).toEqual(Object.keys(body))
    for (const { outcome, statements } of record.queries.runs) {
      expect(['rows', 'empty']).toContain(outcome)
      expect(statements.length).toBeGreaterThan(0)
    }
    expect(record.parameters).toEqual(page.parameters)
  },
)
it('is a page if the route has no JSON', async () => {
  const record = await walk('/')
  expect(record.route.json).toBe(false)
  expect(record.response.headers['content-type']).toContain('text/html')
})
it('is a problem with the query that returned no rows', async () => {
  const record = await walk('/posts/nosuchpost')
  expect(record.response.status).toBe(404)
  expect(record.response.headers['content-type']).toBe('application/problem+json')
  expect(record.queries.runs).toMatchObject([{ outcome: 'empty' }])
})
it('has the plan of its own statements, which fetch every field', async () => {
  const plan = async (accepts: string) =>
    (await test.api<QueryPlan>('GET', `/api/walk/plan?path=/posts&data=posts&accepts=${accepts}`)).answer
      .statements[0]?.sql
  expect((await walk('/posts')).queries.runs[0]?.statements[0]?.sql).toBe(await plan('json'))
  expect(await plan('html')).not.toBe(await plan('json'))
})
it('recent requests have the type of the response', async () => {
  await ask('/posts?page=3')
  await test.read('/posts?page=4')
  // The route has no JSON, so the response is a page.
  await ask('/')
  const { answer } = await test.api<TrafficItem[]>('GET', '/api/traffic')
  const accepts = (target: string) => answer.find((one) => one.target === target)?.accepts
  expect(['/posts?page=3', '/posts?page=4', '/'].map(accepts)).toEqual(['json', 'html', 'html'])
})
it('errors depend on Accept, and declare it by Vary', async () => {
  for (const path of ['/nosuch', '/posts/nosuchpost', '/posts?page=999', '/%E0%A4%A'])
    for (const accept of ['text/html', 'application/json']) {
      const answer = await test.readers.request(path, { headers: { accept } })
      expect(answer.status, path).toBeGreaterThanOrEqual(400)
      expect(answer.headers.get('vary'), `${path} ${accept}`).toBe('accept')
    }
})
