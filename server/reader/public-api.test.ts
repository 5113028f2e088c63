// What programs get, over HTTP as they ask for it. The document is judged by an OpenAPI validator, every answer by
// another library's JSON Schema validator against that document, Link headers by what they lead to.
import { mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { pathToFileURL } from 'node:url'
import { Validator } from '@seriousme/openapi-schema-validator'
import { validate } from '@hyperjump/json-schema/openapi-3-1'
import type { Hono } from 'hono'
import { parse } from 'parse5'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { saveDocument } from '../author/documents/documents.ts'
import { loadDocuments } from '../publish/documents.ts'
import { testBlog, type TestBlog } from '../testing/database.ts'
import { blogListener } from './listener.ts'
import { everyAddress } from './addresses/real-addresses.ts'
import { prefersJson } from './json-page.ts'

let test: TestBlog
let app: Hono
interface Document {
  paths: Record<string, { get: { operationId: string; parameters: { name: string; in: string }[] } }>
}
let document: Document
/** The document as a file: that is how the validator takes one. */
let folder = ''

beforeAll(async () => {
  test = await testBlog()
  app = blogListener(test.blog)
  document = (await (await app.request('/openapi.json')).json()) as Document
  folder = await mkdtemp(join(tmpdir(), 'esquina-openapi-'))
  await writeFile(join(folder, 'blog.openapi.json'), JSON.stringify(document))
})
afterAll(async () => {
  await rm(folder, { recursive: true })
  await test.close()
})

const ask = async (path: string, accept = 'application/json') =>
  await app.request(path, { headers: { accept } })
const json = async (path: string) => (await (await ask(path)).json()) as unknown

/** The schema of what a path template answers, within the document. */
const pointer = (template: string) =>
  `${pathToFileURL(join(folder, 'blog.openapi.json')).href}#/paths/${encodeURIComponent(template.replaceAll('~', '~0').replaceAll('/', '~1'))}/get/responses/200/content/application~1json/schema`

describe('the document', () => {
  it('is OpenAPI 3.1', async () => {
    const result = await new Validator().validate(document as never)
    expect(result.errors ?? []).toEqual([])
    expect(result.valid).toBe(true)
  })
  it('has each route with “json: true”, with its parameters', () => {
    const summary = Object.entries(document.paths).map(([path, { get }]) => [
      path,
      get.operationId,
      get.parameters.map((one) => `${one.in} ${one.name}`),
    ])
    expect(summary).toEqual([
      ['/posts', 'posts', ['query page']],
      ['/posts/{slug}', 'post', ['path slug']],
      ['/category/{category}', 'category', ['path category', 'query page']],
      ['/tag/{tag}', 'tag', ['path tag', 'query page']],
      ['/author/{author}', 'author', ['path author', 'query page']],
      ['/archive', 'archive', ['query from']],
      ['/archive/{year}/{month}', 'month', ['path year', 'path month', 'query page']],
    ])
  })
  it('is not there, and hides no address, in a blog without such a route', async () => {
    const routes = (await loadDocuments(test.database)).get('routes.yaml') ?? ''
    await saveDocument(test.blog, 'routes.yaml', routes.replaceAll('  json: true\n', ''), 1)
    expect((await ask('/openapi.json')).status).toBe(404)
    expect((await ask('/posts')).headers.get('content-type')).toBe('text/html; charset=utf-8')
    await saveDocument(test.blog, 'routes.yaml', routes, 2)
    expect((await ask('/openapi.json')).status).toBe(200)
  })
})

describe('answers', () => {
  it('of every address fit the document', async () => {
    let asked = 0
    for (const template of Object.keys(document.paths)) {
      const isValid = await validate(pointer(template))
      const name = document.paths[template]?.get.operationId
      const compiled = test.blog.site.definition.routes.find((one) => one.route.name === name)
      if (!compiled) throw new Error(`no route ${name ?? ''}`)
      for await (const { path } of everyAddress(test.blog, test.blog.site, compiled)) {
        // Pages of a listing as well, as a program finds them.
        for (let next: string | undefined = path; next !== undefined;) {
          const response = await ask(next)
          expect([next, response.status, response.headers.get('content-type')]).toEqual([
            next,
            200,
            'application/json',
          ])
          const body = (await response.json()) as never
          const result = isValid(body, 'BASIC')
          expect(result.valid ? [] : result.errors, next).toEqual([])
          next = /<([^>]*)>; rel="next"/.exec(response.headers.get('link') ?? '')?.[1]
          asked++
        }
      }
    }
    expect(asked).toBeGreaterThan(90)
  }, 120_000)
  it('that have something more or less do not fit (the validator looks)', async () => {
    const isValid = await validate(pointer('/posts/{slug}'))
    const whole = (await json('/posts/moth')) as { post: Record<string, unknown> }
    expect(isValid(whole as never).valid).toBe(true)
    expect(isValid({ ...whole, more: 1 } as never).valid).toBe(false)
    expect(isValid({ ...whole, post: { ...whole.post, title: 7 } } as never).valid).toBe(false)
    const { title: left, ...rest } = whole.post
    expect(typeof left).toBe('string')
    expect(isValid({ ...whole, post: rest } as never).valid).toBe(false)
  })
  it('have the same rows in the same order as the page', async () => {
    for (const path of ['/posts', '/posts?page=3', '/category/electrical', '/archive/2026/10', '/archive']) {
      const { posts } = (await json(path)) as { posts: { items: { slug: string }[] } }
      const html = await (await ask(path, 'text/html')).text()
      const shown = [...html.matchAll(/(?:<h2>|<\/time> )<a href="\/posts\/([a-z0-9-]+)">/g)].map(
        (one) => one[1],
      )
      expect(
        posts.items.map((one) => one.slug),
        path,
      ).toEqual(shown)
    }
  })
  it('link the pages around them (RFC 8288), and the document (RFC 8631)', async () => {
    const link = (await ask('/posts?page=3&x=1')).headers.get('link')
    expect(link?.split(', ')).toEqual([
      '</posts?x=1>; rel="first"',
      '</posts?page=2&x=1>; rel="prev"',
      '</posts?page=4&x=1>; rel="next"',
      '</posts?page=7&x=1>; rel="last"',
      '</posts?page=3>; rel="canonical"',
      '</openapi.json>; rel="service-desc"',
    ])
  })
  it('show nothing that is not published, and what is not there is a problem (RFC 9457)', async () => {
    for (const path of [
      '/posts/letter-to-a-new-volunteer',
      '/posts/nothing',
      '/posts?page=99',
      '/tag/nothing',
    ]) {
      const response = await ask(path)
      expect([path, response.status, response.headers.get('content-type')]).toEqual([
        path,
        404,
        'application/problem+json',
      ])
      expect(await response.json()).toMatchObject({ title: 'Not Found', status: 404 })
    }
    const all = JSON.stringify(await json('/posts'))
    expect(all).not.toContain('letter-to-a-new-volunteer')
  })
  it('that failed are problems, too, and nobody may keep them', async () => {
    await test.database.query('ALTER TABLE tag RENAME COLUMN name TO label')
    const response = await ask('/tag/tools')
    await test.database.query('ALTER TABLE tag RENAME COLUMN label TO name')
    const { headers } = response
    expect([response.status, headers.get('content-type'), headers.get('cache-control')]).toEqual([
      500,
      'application/problem+json',
      'no-store',
    ])
    expect(await response.text()).not.toContain('label')
  })
  it('lead on where the page has another address', async () => {
    const response = await ask('/posts?page=1')
    expect([response.status, response.headers.get('location')]).toEqual([308, '/posts'])
  })
  it('a script in a text is inert there, too', async () => {
    const { post } = (await json('/posts/moth')) as { post: { html: string } }
    expect(
      JSON.stringify(parse(post.html), (key, value: unknown) => (key === 'parentNode' ? undefined : value)),
    ).not.toContain('"script"')
  })
})

describe('who gets what (RFC 9110 §12.5.1)', () => {
  it.each([
    [undefined, false],
    ['*/*', false],
    ['text/html,application/xhtml+xml,application/xml;q=0.9,*/*;q=0.8', false],
    ['application/json', true],
    ['application/json, text/plain, */*', true],
    ['text/html;q=0.5, application/json', true],
    ['application/json;q=0.5, text/html', false],
    ['application/*', true],
    ['application/json;q=0', false],
    ['image/png', false],
    [',;q=x/', false],
    ['application/json,'.repeat(5_000), false],
  ])('Accept: %s', (accept, expected) => {
    expect(prefersJson(accept)).toBe(expected)
  })
  it('both say that it depends on what is accepted; a page without JSON does not', async () => {
    const vary = async (path: string, accept: string) => (await ask(path, accept)).headers.get('vary')
    expect([
      await vary('/posts', 'text/html'),
      await vary('/posts', 'application/json'),
      await vary('/about', 'application/json'),
    ]).toEqual(['accept', 'accept', null])
  })
  it('any site may read it, with its links', async () => {
    const { headers } = await ask('/posts')
    expect(headers.get('access-control-allow-origin')).toBe('*')
    expect(headers.get('access-control-expose-headers')).toBe('link')
    expect((await ask('/posts', 'text/html')).headers.get('access-control-allow-origin')).toBe(null)
  })
})
