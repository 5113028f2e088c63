// The workbench's API: the guard, the contract, documents saved and refused.
import { Validator } from '@seriousme/openapi-schema-validator'
import { Ajv } from 'ajv'
import addFormats from 'ajv-formats'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { HOST, testWorkbench, type TestWorkbench } from '../testing/workbench.ts'
import { operations } from '../../contract/operations.ts'

type Init = Omit<RequestInit, 'headers'> & { headers?: Record<string, string> }
let test: TestWorkbench
let app: TestWorkbench['app']
beforeAll(async () => {
  test = await testWorkbench()
  app = test.app
})
afterAll(() => test.close())

const ask = (path: string, init: Init = {}) =>
  app.request(`http://${HOST}${path}`, { ...init, headers: { host: HOST, ...init.headers } })
const signed = (path: string, init: Init = {}) =>
  ask(path, { ...init, headers: { authorization: 'Bearer the-key', ...init.headers } })
const put = (body: object) =>
  signed('/api/document', {
    method: 'PUT',
    body: JSON.stringify(body),
    headers: { 'content-type': 'application/json' },
  })
const json = async (response: Response | Promise<Response>) =>
  (await (await response).json()) as Record<string, unknown>

describe('the guard', () => {
  it('asks for the key', async () => {
    const response = await ask('/api/session')
    expect([response.status, response.headers.get('content-type')]).toEqual([401, 'application/problem+json'])
    expect((await ask('/api/session', { headers: { authorization: 'Bearer wrong' } })).status).toBe(401)
    expect((await signed('/api/session')).status).toBe(200)
  })
  it.each([
    ['/api/session', {}, 401],
    ['/api/session', { authorization: 'Bearer the-key' }, 200],
    ['/api/nothing', { authorization: 'Bearer the-key' }, 404],
    ['/api/comment?id=x', { authorization: 'Bearer the-key' }, 400],
    ['/api/session', { host: 'evil.example' }, 421],
    ['/api/tags/export.csv', { authorization: 'Bearer the-key' }, 200],
  ])('lets nobody keep %s (%j: %i), or take it for something else', async (path, headers, status) => {
    const response = await ask(path, { headers })
    expect([
      response.status,
      response.headers.get('cache-control'),
      response.headers.get('x-content-type-options'),
    ]).toEqual([status, 'no-store', 'nosniff'])
  })
  it.each([
    ['another Host (DNS rebinding)', '/api/session', { host: 'evil.example' }, 421],
    ['no Host', '/api/session', { host: '' }, 421],
    ['another Origin', '/api/session', { origin: 'https://evil.example' }, 403],
    ['the blog’s Origin', '/api/session', { origin: 'http://127.0.0.1:4311' }, 403],
    ['an opaque Origin', '/api/session', { origin: 'null' }, 403],
    ['another site without Origin', '/api/session', { 'sec-fetch-site': 'cross-site' }, 403],
    // Another port of the same host is another origin of the same site: the blog, for example.
    ['another origin of the same site', '/api/session', { 'sec-fetch-site': 'same-site' }, 403],
  ])('refuses %s', async (_, path, headers, status) => {
    expect((await signed(path, { headers })).status).toBe(status)
  })
})

describe('the contract', () => {
  it('is a valid OpenAPI 3.1 document', async () => {
    const result = await new Validator().validate(await json(signed('/api/openapi.json')))
    expect(result.errors ?? []).toEqual([])
    expect(result.valid).toBe(true)
  })
  it('every operation that changes content or the definition reports the copies that it dropped', () => {
    const others = [
      'DELETE /api/copies',
      'DELETE /api/copy',
      'POST /api/cache/audit',
      'DELETE /api/cache/audit',
      'DELETE /api/cache/edge',
      'POST /api/checks/run',
      'POST /api/checks/browser',
      'DELETE /api/checks/browser',
      'PUT /api/checks/dismissed',
      'DELETE /api/checks/dismissed',
      'POST /api/growth',
      'DELETE /api/growth',
      'POST /api/query/run',
      'POST /api/query/plan',
      'POST /api/routes/test',
      'POST /api/routes/build',
      'POST /api/routes/draft',
      'DELETE /api/not-found',
      'DELETE /api/posts/import',
      'DELETE /api/sessions',
      'POST /api/comments/emails/retry',
      'POST /api/comments/outside/send',
    ]
    const writing = Object.entries(operations).filter(
      ([name, operation]) => !name.startsWith('GET') && !others.includes(name) && !('readOnly' in operation),
    )
    expect(writing.length).toBeGreaterThan(15)
    for (const [name, { answer }] of writing)
      expect(Object.keys((answer as { properties?: object }).properties ?? {}), name).toContain('purged')
  })
  it('every read answers as the contract says', async () => {
    const ajv = new Ajv({ strict: false })
    addFormats(ajv)
    await app.request(`http://${HOST}/`)
    const { steps } = (await json(signed('/api/steps'))) as { steps: { id: string }[] }
    const staged = '0f0e0d0c-0b0a-4908-8706-050403020100'
    const file = { name: 'a.md', text: '---\ntitle: A\n---\n' }
    await test.api('POST', '/api/posts/import', { import: staged, more: true, files: [file] })
    const unused = { path: 'queries/unused.yaml', text: 'from: tags\ntake: all\n', version: 0 }
    await test.api('PUT', '/api/document', unused)
    await test.checks.run()
    await test.database.query("INSERT INTO mail (id, kind) VALUES (1, 'author')")
    const paths = {
      'GET /api/posts/import': `/api/posts/import?import=${staged}`,
      'GET /api/checks/fixes': '/api/checks/fixes?rule=query-unused&subject=unused',
      'GET /api/step': `/api/step?id=${steps[0]?.id ?? ''}`,
      'GET /api/walk': '/api/walk?path=/posts',
      'GET /api/walk/plan': '/api/walk/plan?path=/posts&data=posts',
      'GET /api/document': '/api/document?path=routes.yaml',
      'GET /api/documents/find': '/api/documents/find?text=post',
      'GET /api/copy': '/api/copy?key=none',
      'GET /api/comment': '/api/comment?id=1',
      'GET /api/comments/email': '/api/comments/email?id=1',
      'GET /api/comment/page': '/api/comment/page?id=1',
      'GET /api/routes/addresses': '/api/routes/addresses?route=post&page=1',
      'GET /api/slug': '/api/slug?kind=post&text=moth',
      'GET /api/post': '/api/post?slug=moth',
      'GET /api/terms': '/api/terms?kind=category',
      'GET /api/term': '/api/term?kind=author&slug=wen-adeyemi',
      'GET /api/page': '/api/page?path=about/people',
      'GET /api/deleted': '/api/deleted?kind=image',
      'GET /api/post/appearances': '/api/post/appearances?slug=moth',
    } as Record<string, string>
    for (const [name, operation] of Object.entries(operations)) {
      const [method, path = ''] = name.split(' ')
      if (method !== 'GET') continue
      const answer = await json(signed(paths[name] ?? path))
      expect(ajv.validate(operation.answer, answer) ? [] : ajv.errors, name).toEqual([])
    }
    const step = { do: 'delete-document', document: unused.path, version: 1 }
    expect((await test.api('POST', '/api/changes', { steps: [step] })).status).toBe(200)
  })
  it.each([
    ['/api/walk', 400],
    ['/api/walk?path=/&as=nobody', 400],
    ['/api/walk?path=/&extra=1', 400],
    ['/api/walk/plan?path=/posts&data=nothing', 404],
    ['/api/document?path=no-such.yaml', 404],
    ['/api/document?path=../../etc/passwd', 404],
    ['/api/nothing', 404],
  ])('GET %s: %i, as problem details', async (path, status) => {
    const response = await signed(path)
    expect([response.status, response.headers.get('content-type')]).toEqual([
      status,
      'application/problem+json',
    ])
  })
  it('a body that is no JSON: 400; one that is too large: 413', async () => {
    expect((await signed('/api/document', { method: 'PUT', body: '{' })).status).toBe(400)
    expect((await put({ path: 'blog.yaml', text: 'x'.repeat(4_000_000), version: 1 })).status).toBe(413)
  })
})

describe('documents', () => {
  it('a saved template is on the page at once, and can be undone', async () => {
    const path = 'templates/partials/card.liquid'
    const before = await json(signed(`/api/document?path=${path}`))
    const saved = await json(put({ path, text: `${String(before['text'])}<hr>`, version: before['version'] }))
    expect(saved).toMatchObject({ path, version: 2 })
    const walked = await json(signed('/api/walk?path=/posts'))
    expect(String((walked['response'] as { body: string }).body).split('<hr>')).toHaveLength(7)
    expect(await json(put({ path, text: before['text'], version: 2 }))).toMatchObject({ version: 3 })
  })
  it('an invalid one is refused with its place, and the last valid version stays active', async () => {
    const response = await put({
      path: 'queries/all-posts.yaml',
      text: 'from: posts\norder: [-publishd]\ntake: all\n',
      version: 1,
    })
    expect(response.status).toBe(422)
    expect(await response.json()).toMatchObject({
      problems: [{ file: 'queries/all-posts.yaml', line: 2, code: 'query-field-unknown' }],
    })
    expect(await json(signed('/api/walk?path=/posts'))).toMatchObject({ response: { status: 200 } })
  })
  it('are validated without saving', async () => {
    const check = (path: string, text: string) =>
      json(signed('/api/document/check', { method: 'POST', body: JSON.stringify({ path, text }) }))
    expect(await check('routes.yaml', '- name: x\n')).toMatchObject({
      problems: [{ file: 'routes.yaml', line: 1, code: 'value-missing' }],
    })
    expect(await check('content/posts/moth.md', 'no matter')).toMatchObject({ problems: [{ line: 1 }] })
    expect(await check('queries/new-one.yaml', 'from: tags\ntake: all\n')).toEqual({ problems: [] })
  })
  it('an outdated version is a conflict with the stored text', async () => {
    const path = 'blog.yaml'
    const stored = await json(signed(`/api/document?path=${path}`))
    const response = await put({ path, text: 'title: x\n', version: 99 })
    expect(response.status).toBe(409)
    expect(await response.json()).toMatchObject({ version: 1, text: stored['text'] })
  })
  it('a post is edited as a file, and a new slug moves it', async () => {
    const path = 'content/posts/the-button-jar.md'
    const post = await json(signed(`/api/document?path=${path}`))
    const text = String(post['text']).replace('slug: the-button-jar', 'slug: a-jar-of-buttons')
    expect(await json(put({ path, text, version: post['version'] }))).toMatchObject({
      path: 'content/posts/a-jar-of-buttons.md',
      version: 2,
    })
    expect(await json(signed('/api/walk?path=/posts/a-jar-of-buttons'))).toMatchObject({
      response: { status: 200 },
    })
  })
})

it('suggests existing addresses: a card to edit, a draft, a page beyond the last', async () => {
  expect(await json(signed('/api/suggestions'))).toMatchObject([
    { path: '/posts', document: 'templates/partials/card.liquid' },
    { path: expect.stringMatching(/^\/posts\/[a-z-]+$/) as string },
    { path: '/posts?page=999' },
  ])
})
