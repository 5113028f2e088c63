// The documents of a definition checked against each other: names that do not exist, and keys that exclude each other.
import { describe, expect, it } from 'vitest'
import { demo, problemsOf, withDocument } from '../testing/demo.ts'

/** The problems of the demo with another route, which is the route with index 11. */
const withRoute = (yaml: string) => problemsOf(withDocument('routes.yaml', (text) => `${text}\n${yaml}\n`))
const withQuery = (name: string, yaml: string) =>
  problemsOf(new Map([...demo, [`queries/${name}.yaml`, yaml]]))
const withNotFound = (yaml: string) =>
  problemsOf(
    withDocument('blog.yaml', (text) => text.replace(/not-found:\n(?: {2}.*\n)+/, `not-found:\n${yaml}\n`)),
  )

describe('a route', () => {
  it.each<[string, string, object]>([
    [
      'with JSON but without a template',
      '- { name: away, path: /away, redirect: { to: / }, json: true }',
      { path: '/16/json', code: 'route-json-without-template' },
    ],
    [
      'with “then” but without an action',
      '- { name: away, path: /away, template: pages/page, then: post }',
      { path: '/16/then', code: 'route-then-without-action' },
    ],
    [
      'with robots.txt where search engines do not look (RFC 9309, 2.3)',
      '- { name: away, path: /blog/robots.txt, robots: true }',
      { path: '/16/path', code: 'route-robots-elsewhere' },
    ],
    [
      'that redirects and has data',
      '- { name: away, path: /away, data: { latest: latest-posts }, redirect: { to: / } }',
      { path: '/16/data/latest', code: 'route-redirect-shows-nothing' },
    ],
    [
      'that redirects and has a heading',
      '- { name: away, path: /away, heading: Away, redirect: { to: / } }',
      { path: '/16/heading', code: 'route-redirect-shows-nothing' },
    ],
    [
      'that redirects to a misspelt parameter',
      "- { name: away, path: '/away/:slug', redirect: { to: '/posts/:slig' } }",
      { path: '/16/redirect/to', code: 'route-redirect-parameter-unknown' },
    ],
    [
      'that redirects to a field of a list',
      "- { name: away, path: /away, data: { latest: latest-posts }, redirect: { to: '/posts/:latest.slug' } }",
      { path: '/16/redirect/to', code: 'route-redirect-field-unknown' },
    ],
    [
      'that redirects to a misspelt field',
      "- { name: away, path: '/away/:slug', data: { post: post-by-slug }, redirect: { to: '/posts/:post.slgu' } }",
      { path: '/16/redirect/to', code: 'route-redirect-field-unknown', hint: 'Did you mean “slug”?' },
    ],
    [
      'that redirects to a row',
      "- { name: away, path: '/away/:slug', data: { post: post-by-slug }, redirect: { to: '/posts/:post' } }",
      {
        path: '/16/redirect/to',
        code: 'route-redirect-field-unknown',
        hint: 'Add a field, such as :post.slug.',
      },
    ],
    [
      'that redirects to a text of unlimited length',
      "- { name: away, path: '/away/:slug', data: { post: post-by-slug }, redirect: { to: '/posts/:post.html' } }",
      { code: 'route-redirect-field-unknown' },
    ],
    [
      'that redirects to a field of a related row which is not fetched',
      "- { name: away, path: '/away/:category', data: { category: category-by-slug, one: latest-posts }, redirect: { to: '/:category.parent.slug' } }",
      { path: '/16/data/one', code: 'route-redirect-shows-nothing' },
    ],
    [
      'that redirects to a parameter although its path has none',
      "- { name: away, path: /away, redirect: { to: '/posts/:slug' } }",
      { code: 'route-redirect-parameter-unknown' },
    ],
    [
      'whose data has a reserved name',
      '- { name: away, path: /away, data: { blog: latest-posts }, template: pages/page }',
      {
        path: '/16/data/blog',
        code: 'data-name-reserved',
      },
    ],
    [
      'that passes a parameter the query does not have',
      "- { name: away, path: '/away/:slug', data: { latest: { query: latest-posts, with: { size: slug } } }, template: pages/page }",
      { path: '/16/data/latest/with/size', code: 'data-parameter-unused' },
    ],
    [
      'that accepts comments for an unknown query',
      "- { name: say, path: '/say/:slug', data: { post: post-unseen }, action: add-comment, then: post }",
      { code: 'data-query-unknown' },
    ],
    [
      'that accepts comments without “then”',
      "- { name: say, path: '/say/:slug', data: { post: post-by-slug }, action: add-comment }",
      {
        path: '/16/action',
        code: 'route-comment-needs-then',
      },
    ],
    [
      'that accepts comments and leads to a route without a page',
      "- { name: say, path: '/say/:slug', data: { post: post-by-slug }, action: add-comment, then: add-comment }",
      { path: '/16/then', code: 'route-comment-needs-then' },
    ],
    [
      'with the name of the 404 page',
      '- { name: not-found, path: /away, template: pages/page }',
      { path: '/16/name', code: 'route-name-reserved' },
    ],
    [
      'with two answers',
      '- { name: away, path: /away, template: pages/page, redirect: { to: / } }',
      {
        code: 'route-answers-twice',
      },
    ],
  ])('%s', (_, yaml, expected) => {
    expect(withRoute(yaml)).toEqual([expect.objectContaining({ file: 'routes.yaml', ...expected })])
  })

  it('that accepts comments for drafts', () => {
    const documents = withDocument('queries/post-by-slug.yaml', (text) =>
      text.replace(/^.*published.*\n/m, ''),
    )
    expect(documents.get('queries/post-by-slug.yaml')).not.toMatch(/published\b/)
    expect(problemsOf(documents)).toEqual([
      expect.objectContaining({
        path: '/3/data/post',
        code: 'route-comment-post-not-published',
      }),
    ])
  })

  it('with two listings that share a page parameter', () => {
    expect(
      withRoute('- { name: both, path: /both, data: { a: all-posts, b: all-posts }, template: pages/page }'),
    ).toEqual([
      expect.objectContaining({
        path: '/16/data/b',
        code: 'data-page-parameter-shared',
      }),
    ])
  })
})

describe('a parameter that a query compares with an integer', () => {
  const types = ['integer', 'year', 'month', 'day', 'number', 'text', 'slug', 'uuid', 'path'] as const
  const codes = (type: string) =>
    problemsOf(
      new Map([
        ...demo,
        [
          'queries/long-posts.yaml',
          'from: posts\nwhere:\n  - { field: wordCount, is: more, to: ":words" }\norder: [-publishedAt]\ntake: first 5\n',
        ],
        [
          'routes.yaml',
          `${demo.get('routes.yaml') ?? ''}\n- name: long\n  path: /long/:words\n  params: { words: ${type} }\n  data: { posts: long-posts }\n  template: pages/page\n`,
        ],
      ]),
    ).map((one) => one.code)

  it.each(types)('of type %s', (type) => {
    const isWhole = ['integer', 'year', 'month', 'day'].includes(type)
    // 1.5 is a number that PostgreSQL cannot compare with an integer column as an integer.
    expect(codes(type).includes('data-parameter-type')).toBe(!isWhole)
  })
})

describe('data that depends on other data', () => {
  const needing = (name: string, other: string) =>
    `    ${name}: { query: more-in-category, with: { category: ${other}.category.slug, except: ${other}.slug } }`
  const route = (...data: string[]) =>
    `- name: ring\n  path: /ring\n  data:\n${data.join('\n')}\n  template: pages/page`

  it('must not depend on itself', () => {
    expect(withRoute(route(needing('a', 'a')))).toEqual([
      expect.objectContaining({
        path: '/16/data',
        code: 'data-cycle',
        message: expect.stringContaining(': a → a.') as string,
      }),
    ])
  })
  it('must not form a cycle, which is reported without the path that leads to it', () => {
    expect(
      withRoute(route(needing('way', 'a'), needing('a', 'b'), needing('b', 'c'), needing('c', 'a'))),
    ).toEqual([
      expect.objectContaining({
        code: 'data-cycle',
        message: expect.stringContaining(': a → b → c → a.') as string,
      }),
    ])
  })
  it('is checked in linear time, however many paths lead from one to another', () => {
    const names = Array.from({ length: 60 }, (_, index) => `d${index}`)
    // Each depends on the next two, so the number of paths is a Fibonacci number with 13 digits.
    const data = names.map((name, index) =>
      index < 58
        ? `    ${name}: { query: more-in-category, with: { category: ${names[index + 1]}.slug, except: ${names[index + 2]}.slug } }`
        : `    ${name}: latest-posts`,
    )
    expect(withRoute(route(...data))).toEqual([])
  })
})

describe('the 404 page', () => {
  it.each<[string, string, object]>([
    [
      'with an unknown template',
      '  template: pages/not-fuond',
      { path: '/not-found/template', code: 'template-unknown' },
    ],
    [
      'with an unknown query',
      '  template: pages/not-found\n  data: { latest: latest }',
      { path: '/not-found/data/latest', code: 'data-query-unknown' },
    ],
    [
      'with data that needs a parameter',
      '  template: pages/not-found\n  data: { post: post-by-slug }',
      { code: 'data-parameter-missing' },
    ],
  ])('%s', (_, yaml, expected) => {
    expect(withNotFound(yaml)).toEqual([expect.objectContaining({ file: 'blog.yaml', ...expected })])
  })
})

describe('an index', () => {
  const index = (name: string, keys: string, on = 'posts') =>
    `- { name: ${name}, on: ${on}, keys: ${keys} }\n`
  const problems = (text: string) => problemsOf(new Map([...demo, ['indexes.yaml', text]]))

  it('is read from indexes.yaml', () => {
    expect(
      problems(index('by-length', '[-wordCount]') + index('by-author', '[author, -publishedAt]')),
    ).toEqual([])
  })
  it.each<[string, string, object]>([
    [
      'with the name of another',
      index('by-length', '[wordCount]') + index('by-length', '[title]'),
      { path: '/1/name', line: 2, code: 'index-name-repeated' },
    ],
    [
      'with the keys of another',
      index('by-length', '[wordCount]') + index('again', '[wordCount]'),
      { path: '/1/keys', line: 2, code: 'index-repeated' },
    ],
    ['by a long text', index('by-text', '[body]'), { path: '/0/keys/0', code: 'index-key-not-possible' }],
    [
      'by a field of another row',
      index('by-name', '[category.name]'),
      { path: '/0/keys/0', code: 'value-form' },
    ],
    [
      'by a property of every JavaScript object',
      index('odd', '[constructor]'),
      { code: 'index-key-not-possible' },
    ],
    [
      'by a field twice',
      index('twice', '[title, -title]'),
      { path: '/0/keys/1', code: 'index-key-repeated' },
    ],
    ['of an unknown source', index('by-name', '[name]', 'people'), { path: '/0/on' }],
  ])('%s', (_, text, expected) => {
    expect(problems(text)).toEqual([expect.objectContaining({ file: 'indexes.yaml', ...expected })])
  })
})

describe('a query that counts', () => {
  it.each<[string, string, object]>([
    [
      'by an unknown field',
      'from: posts\ncount-by: [mood]\ntake: all',
      { path: '/count-by/0', code: 'query-field-unknown' },
    ],
    [
      'by a time',
      'from: posts\ncount-by: [publishedAt]\ntake: all',
      { path: '/count-by/0', code: 'query-count-by-too-many-values' },
    ],
    [
      'by a field twice',
      'from: posts\ncount-by: [author.name, author.name]\ntake: all',
      { code: 'query-count-by-repeated' },
    ],
    [
      'in pages',
      'from: posts\ncount-by: [author.name]\ntake: pages\npages: { size: 3 }',
      { path: '/take', code: 'query-count-by-needs-all' },
    ],
  ])('%s', (_, yaml, expected) => {
    expect(withQuery('counted', yaml)).toContainEqual(
      expect.objectContaining({ file: 'queries/counted.yaml', ...expected }),
    )
  })
})

it('a document that is too long is refused before it is read', () => {
  expect(problemsOf(withDocument('assets/blog.css', (text) => text.padEnd(1_000_001)))).toMatchObject([
    { file: 'assets/blog.css', code: 'document-too-long' },
  ])
})
