// A walk of what a program gets: the same answer as over HTTP, with the same stages as a page.
import { afterAll, beforeAll, expect, it } from 'vitest'
import { testWorkbench, type TestWorkbench } from '../../testing/workbench.ts'
import type { QueryPlan, TrafficItem, WalkRecord } from '../../../contract/operations.ts'

let test: TestWorkbench
beforeAll(async () => (test = await testWorkbench()))
afterAll(() => test.close())

const walk = async (path: string, gets: 'page' | 'data' = 'data') =>
  (await test.api<WalkRecord>('GET', `/api/walk?path=${encodeURIComponent(path)}&gets=${gets}`)).answer
const ask = (path: string) => test.readers.request(path, { headers: { accept: 'application/json' } })

it.each(['/posts', '/posts?page=2', '/category/bicycles', '/archive', '/posts/moth'])(
  '%s: what a program gets, to the letter',
  async (path) => {
    const record = await walk(path)
    const answer = await ask(path)
    expect(record.response.body).toBe(await answer.text())
    expect(record.response.headers).toEqual(Object.fromEntries(answer.headers))
    expect(record.gets).toBe('data')
    expect(record.route.json).toBe(true)
    expect(record.templates.page).toBeNull()
    const page = await walk(path, 'page')
    expect(page.response.headers['content-type']).toContain('text/html')
    // All data of the route in its order, each with what it was asked; each parameter of the address once.
    const body = JSON.parse(record.response.body) as object
    expect(record.queries.runs.map((one) => one.data)).toEqual(Object.keys(body))
    for (const { outcome, statements } of record.queries.runs) {
      expect(['rows', 'empty']).toContain(outcome)
      expect(statements.length).toBeGreaterThan(0)
    }
    expect(record.parameters).toEqual(page.parameters)
  },
)
it('of a route that answers no programs, the page', async () => {
  const record = await walk('/')
  expect(record.route.json).toBe(false)
  expect(record.response.headers['content-type']).toContain('text/html')
})
it('of what is not there, the problem, with the query that found nothing', async () => {
  const record = await walk('/posts/nosuchpost')
  expect(record.response.status).toBe(404)
  expect(record.response.headers['content-type']).toBe('application/problem+json')
  expect(record.queries.runs).toMatchObject([{ outcome: 'empty' }])
})
it('how its statements run: those it asked, with every field', async () => {
  const plan = async (gets: string) =>
    (await test.api<QueryPlan>('GET', `/api/walk/plan?path=/posts&data=posts&gets=${gets}`)).answer
      .statements[0]?.sql
  expect((await walk('/posts')).queries.runs[0]?.statements[0]?.sql).toBe(await plan('data'))
  expect(await plan('page')).not.toBe(await plan('data'))
})
it('recent requests say who asked', async () => {
  await ask('/posts?page=3')
  await test.read('/posts?page=4')
  // It has no JSON: what came back is the page.
  await ask('/')
  const { answer } = await test.api<TrafficItem[]>('GET', '/api/traffic')
  const gets = (target: string) => answer.find((one) => one.target === target)?.gets
  expect([gets('/posts?page=3'), gets('/posts?page=4'), gets('/')]).toEqual(['data', 'page', 'page'])
})
it('what went wrong differs by what is asked for, and says so', async () => {
  for (const path of ['/nosuch', '/posts/nosuchpost', '/posts?page=999', '/%E0%A4%A'])
    for (const accept of ['text/html', 'application/json']) {
      const answer = await test.readers.request(path, { headers: { accept } })
      expect(answer.status, path).toBeGreaterThanOrEqual(400)
      expect(answer.headers.get('vary'), `${path} ${accept}`).toBe('accept')
    }
})
