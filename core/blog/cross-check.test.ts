// Documents of a definition held against each other: what one names, another must have; what one says, another may exclude.
import { describe, expect, it } from 'vitest'
import { demo, problemsOf, withDocument } from '../testing/demo.ts'

/** The demo with one more route, the last one of eleven. */
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
      'answers JSON with the data of a template that it does not have',
      '- { name: away, path: /away, redirect: { to: / }, json: true }',
      { path: '/11/json', message: '“json” goes with “template”: it gives programs the data of the page' },
    ],
    [
      'goes on after no action',
      '- { name: away, path: /away, template: pages/page, then: post }',
      { path: '/11/then', message: '“then” goes with “action”' },
    ],
    [
      'redirects, and shows something',
      '- { name: away, path: /away, data: { latest: latest-posts }, redirect: { to: / } }',
      { path: '/11/data', message: 'a redirect shows nothing, so it needs no “data”' },
    ],
    [
      'redirects, and has a heading',
      '- { name: away, path: /away, heading: Away, redirect: { to: / } }',
      { path: '/11/heading', message: 'a redirect shows nothing, so it needs no “heading”' },
    ],
    [
      'redirects to a parameter that is called differently',
      "- { name: away, path: '/away/:slug', redirect: { to: '/posts/:slig' } }",
      { path: '/11/redirect/to', message: 'the path has no parameter “slig”', hint: 'did you mean “slug”?' },
    ],
    [
      'redirects to a parameter, from a path without any',
      "- { name: away, path: /away, redirect: { to: '/posts/:slug' } }",
      { message: 'the path has no parameter “slug”', hint: 'its path is /away' },
    ],
    [
      'calls its data what templates know as something else',
      '- { name: away, path: /away, data: { blog: latest-posts }, template: pages/page }',
      {
        path: '/11/data/blog',
        message: '“blog” stands for something else in templates',
        hint: 'choose another name',
      },
    ],
    [
      'gives a query what it does not ask for',
      "- { name: away, path: '/away/:slug', data: { latest: { query: latest-posts, with: { size: slug } } }, template: pages/page }",
      { path: '/11/data/latest/with/size', message: 'query “latest-posts” has no parameter “size”' },
    ],
    [
      'takes comments for posts of a query that is not there',
      "- { name: say, path: '/say/:slug', data: { post: post-unseen }, action: add-comment, then: post }",
      { message: 'there is no query “post-unseen”' },
    ],
    [
      'takes comments and shows them nowhere',
      "- { name: say, path: '/say/:slug', data: { post: post-by-slug }, action: add-comment }",
      {
        path: '/11/action',
        message: 'add-comment needs “then”: the route of the page that shows the comment',
        hint: 'did you mean “post”?',
      },
    ],
    [
      'takes comments and shows them on a route that shows nothing',
      "- { name: say, path: '/say/:slug', data: { post: post-by-slug }, action: add-comment, then: add-comment }",
      { path: '/11/then', message: 'add-comment needs “then”: the route of the page that shows the comment' },
    ],
    [
      'is called what the page of lost addresses is called',
      '- { name: not-found, path: /away, template: pages/page }',
      { path: '/11/name', hint: 'choose another name' },
    ],
    [
      'answers with two things',
      '- { name: away, path: /away, template: pages/page, redirect: { to: / } }',
      {
        message: 'route “away” answers with several things',
        hint: 'give it one of: template, action, redirect',
      },
    ],
  ])('%s', (_, yaml, expected) => {
    expect(withRoute(yaml)).toEqual([expect.objectContaining({ file: 'routes.yaml', ...expected })])
  })

  it('takes comments for drafts', () => {
    const documents = withDocument('queries/post-by-slug.yaml', (text) =>
      text.replace(/^.*published.*\n/m, ''),
    )
    expect(documents.get('queries/post-by-slug.yaml')).not.toMatch(/published\b/)
    expect(problemsOf(documents)).toEqual([
      expect.objectContaining({
        path: '/3/data/post',
        message: 'comments may be sent only to posts that a reader may see',
        hint: 'add “published” to the query',
      }),
    ])
  })

  it('turns two lists by the same parameter', () => {
    expect(
      withRoute('- { name: both, path: /both, data: { a: all-posts, b: all-posts }, template: pages/page }'),
    ).toEqual([
      expect.objectContaining({
        path: '/11/data/b',
        message: '“b” and “a” turn their pages by the same ?page=',
        hint: 'give one of the queries another “pages: { parameter: … }”',
      }),
    ])
  })
})

describe('data that needs other data', () => {
  const needing = (name: string, other: string) =>
    `    ${name}: { query: more-in-category, with: { category: ${other}.category.slug, except: ${other}.slug } }`
  const route = (...data: string[]) =>
    `- name: ring\n  path: /ring\n  data:\n${data.join('\n')}\n  template: pages/page`

  it('may not need itself', () => {
    expect(withRoute(route(needing('a', 'a')))).toEqual([
      expect.objectContaining({ path: '/11/data', message: 'the data needs itself: a → a' }),
    ])
  })
  it('nor each other, over however many, and the circle is named without the way to it', () => {
    expect(
      withRoute(route(needing('way', 'a'), needing('a', 'b'), needing('b', 'c'), needing('c', 'a'))),
    ).toEqual([expect.objectContaining({ message: 'the data needs itself: a → b → c → a' })])
  })
  it('is judged at once, however many ways lead from one to another', () => {
    const names = Array.from({ length: 60 }, (_, index) => `d${index}`)
    // Each needs the next two: the ways from the first to the last are as many as a Fibonacci number of 13 digits.
    const data = names.map((name, index) =>
      index < 58
        ? `    ${name}: { query: more-in-category, with: { category: ${names[index + 1]}.slug, except: ${names[index + 2]}.slug } }`
        : `    ${name}: latest-posts`,
    )
    expect(withRoute(route(...data))).toEqual([])
  })
})

describe('the page of lost addresses', () => {
  it.each<[string, string, object]>([
    [
      'with a template that is not there',
      '  template: pages/not-fuond',
      { path: '/not-found/template', hint: 'did you mean “pages/not-found”?' },
    ],
    [
      'with data that is not there',
      '  template: pages/not-found\n  data: { latest: latest }',
      { path: '/not-found/data/latest', message: 'there is no query “latest”' },
    ],
    [
      'with data that needs a part of an address',
      '  template: pages/not-found\n  data: { post: post-by-slug }',
      { message: 'query “post-by-slug” needs “slug”, which the address does not have' },
    ],
  ])('%s', (_, yaml, expected) => {
    expect(withNotFound(yaml)).toEqual([expect.objectContaining({ file: 'blog.yaml', ...expected })])
  })
})

describe('an index', () => {
  const index = (name: string, keys: string, on = 'posts') =>
    `- { name: ${name}, on: ${on}, keys: ${keys} }\n`
  const problems = (text: string) => problemsOf(new Map([...demo, ['indexes.yaml', text]]))

  it('is read with the others', () => {
    expect(
      problems(index('by-length', '[-wordCount]') + index('by-author', '[author, -publishedAt]')),
    ).toEqual([])
  })
  it.each<[string, string, object]>([
    [
      'under a name that is taken',
      index('by-length', '[wordCount]') + index('by-length', '[title]'),
      { path: '/1/name', line: 2, message: 'the name “by-length” is used twice' },
    ],
    [
      'with the keys of another',
      index('by-length', '[wordCount]') + index('again', '[wordCount]'),
      { path: '/1/keys', line: 2, message: 'there is another index with the same keys' },
    ],
    [
      'by a long text',
      index('by-text', '[body]'),
      { path: '/0/keys/0', message: 'posts cannot be indexed by “body”' },
    ],
    [
      'by a field of another row',
      index('by-name', '[category.name]'),
      { path: '/0/keys/0', message: 'this is “category.name”, which does not have the form it needs' },
    ],
    [
      'by what every object of JavaScript inherits',
      index('odd', '[constructor]'),
      { message: 'posts cannot be indexed by “constructor”' },
    ],
    [
      'by a field twice',
      index('twice', '[title, -title]'),
      { path: '/0/keys/1', message: '“title” is there twice' },
    ],
    ['of a source that is not there', index('by-name', '[name]', 'people'), { path: '/0/on' }],
  ])('%s', (_, text, expected) => {
    expect(problems(text)).toEqual([expect.objectContaining({ file: 'indexes.yaml', ...expected })])
  })
})

describe('a query that counts', () => {
  it.each<[string, string, object]>([
    [
      'by a field that is not there',
      'from: posts\ncount-by: [mood]\ntake: all',
      { path: '/count-by/0', message: 'posts have no field “mood”' },
    ],
    [
      'by a moment',
      'from: posts\ncount-by: [publishedAt]\ntake: all',
      { path: '/count-by/0', hint: 'count by its year, month or day' },
    ],
    [
      'by a field twice',
      'from: posts\ncount-by: [author.name, author.name]\ntake: all',
      { message: '“author.name” is there twice' },
    ],
    [
      'page by page',
      'from: posts\ncount-by: [author.name]\ntake: pages\npages: { size: 3 }',
      { path: '/take', message: '“count-by” goes with “take: all” or “take: first …”' },
    ],
  ])('%s', (_, yaml, expected) => {
    expect(withQuery('counted', yaml)).toContainEqual(
      expect.objectContaining({ file: 'queries/counted.yaml', ...expected }),
    )
  })
})

it('a document beyond all measure is refused before it is read', () => {
  expect(problemsOf(withDocument('assets/blog.css', (text) => text.padEnd(1_000_001)))).toEqual([
    {
      file: 'assets/blog.css',
      message: expect.stringMatching(/^the document is longer than \d+ characters$/) as string,
    },
  ])
})
