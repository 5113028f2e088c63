// The public API over HTTP. An OpenAPI validator checks the document, another library's JSON Schema validator checks
// every response against it, and Link headers are followed.
import { mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { pathToFileURL } from 'node:url'
import { Validator } from '@seriousme/openapi-schema-validator'
import { validate } from '@hyperjump/json-schema/openapi-3-1'
import type { Hono } from 'hono'
import { parse } from 'parse5'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { testBlog, type TestBlog } from '../testing/database.ts'
import { saveTexts, textOf } from '../testing/edits.ts'
import { blogListener } from './listener.ts'
import { everyAddress } from './addresses/real-addresses.ts'
import { readRequest } from './request.ts'

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
      ['/posts/{slug}', 'post', ['path slug', 'query comments']],
      ['/category/{category}', 'category', ['path category', 'query page']],
      ['/tag/{tag}', 'tag', ['path tag', 'query page']],
      ['/author/{author}', 'author', ['path author', 'query page']],
      ['/archive', 'archive', ['query from']],
      ['/archive/{year}/{month}', 'month', ['path year', 'path month', 'query page']],
    ])
  })
  it('does not exist, and hides no address, in a blog without such a route', async () => {
    const routes = await textOf(test.blog, 'routes.yaml')
    await saveTexts(test.blog, { 'routes.yaml': routes.replaceAll('  json: true\n', '') })
    expect((await ask('/openapi.json')).status).toBe(404)
    expect((await ask('/posts')).headers.get('content-type')).toBe('text/html; charset=utf-8')
    await saveTexts(test.blog, { 'routes.yaml': routes })
    expect((await ask('/openapi.json')).status).toBe(200)
  })
})

describe('responses', () => {
  it('of every address match the document', async () => {
    let asked = 0
    for (const template of Object.keys(document.paths)) {
      const isValid = await validate(pointer(template))
      const name = document.paths[template]?.get.operationId
      const compiled = test.blog.site.definition.routes.find((one) => one.route.name === name)
      if (!compiled) throw new Error(`no route ${name ?? ''}`)
      for await (const { path } of everyAddress(test.blog, test.blog.site, compiled)) {
        // Further pages of a listing are found by their links.
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
  })
  it('with more or fewer properties do not match (so the validator works)', async () => {
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
  it('link the other pages (RFC 8288) and the document (RFC 8631)', async () => {
    const link = (await ask('/posts?page=3&x=1')).headers.get('link')
    expect(link?.split(', ')).toEqual([
      '</posts>; rel="first"',
      '</posts?page=2>; rel="prev"',
      '</posts?page=4>; rel="next"',
      '</posts?page=7>; rel="last"',
      '</posts?page=3>; rel="canonical"',
      '</openapi.json>; rel="service-desc"',
    ])
  })
  it('contain no unpublished posts, and a 404 is a problem (RFC 9457)', async () => {
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
  it('that fail are problems which must not be stored', async () => {
    test.blog.fragments.clear('test')
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
  it('redirect like pages', async () => {
    const response = await ask('/posts?page=1')
    expect([response.status, response.headers.get('location')]).toEqual([308, '/posts'])
  })
  it('contain no scripts of texts', async () => {
    const { post } = (await json('/posts/moth')) as { post: { html: string } }
    expect(
      JSON.stringify(parse(post.html), (key, value: unknown) => (key === 'parentNode' ? undefined : value)),
    ).not.toContain('"script"')
  })
})

describe('negotiation (RFC 9110 §12.5.1)', () => {
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
    const request = new Request('http://b.test/', accept === undefined ? {} : { headers: { accept } })
    expect(readRequest(request).accepts).toBe(expected ? 'json' : 'html')
  })
  it('is declared by Vary, except for pages without JSON', async () => {
    const vary = async (path: string, accept: string) => (await ask(path, accept)).headers.get('vary')
    expect([
      await vary('/posts', 'text/html'),
      await vary('/posts', 'application/json'),
      await vary('/about', 'application/json'),
    ]).toEqual(['accept, accept-encoding', 'accept, accept-encoding', 'accept-encoding'])
  })
  it('any site may read responses and their links', async () => {
    const { headers } = await ask('/posts')
    expect(headers.get('access-control-allow-origin')).toBe('*')
    expect(headers.get('access-control-expose-headers')).toBe('link')
    expect((await ask('/posts', 'text/html')).headers.get('access-control-allow-origin')).toBe(null)
  })
})
