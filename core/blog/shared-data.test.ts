// Data that blog.yaml declares for all routes: where it is fetched, what may replace it, and what is refused.
import { describe, expect, it } from 'vitest'
import { demo, problemsOf } from '../testing/demo.ts'
import { readDefinition } from './read.ts'

const SHARED = /^data:[^\n]*\n(?: {2}.*\n)+/m

/** Returns the demo with other shared data, and with other documents. */
const documentsWith = (data: string, more: Record<string, string> = {}) =>
  new Map([
    ...demo,
    ['blog.yaml', (demo.get('blog.yaml') ?? '').replace(SHARED, data)],
    ...Object.entries(more),
  ])

function definitionOf(documents: ReadonlyMap<string, string>) {
  const read = readDefinition(documents)
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  return read.value
}

const routeOf = (documents: ReadonlyMap<string, string>, name: string) =>
  definitionOf(documents).routes.find((one) => one.route.name === name)

describe('data of blog.yaml', () => {
  it('belongs to the routes whose templates read it, through partials and layouts, and to no other', () => {
    expect(demo.get('blog.yaml')).toMatch(SHARED)
    const { routes } = definitionOf(demo)
    const having = (data: string) => routes.filter((one) => one.shared.has(data)).map((one) => one.route.name)
    expect(having('categories')).toEqual(['home', 'posts', 'category', 'tag', 'author', 'search'])
    expect(having('recentComments')).toEqual(['home', 'posts', 'category', 'tag', 'author'])
    for (const { route, shared } of routes)
      for (const name of shared) expect(Object.keys(route.data ?? {})).toContain(name)
    const layout = (demo.get('templates/layouts/base.liquid') ?? '').replace(
      '</body>',
      '{{ recentComments.size }}</body>',
    )
    const everywhere = documentsWith(demo.get('blog.yaml')?.match(SHARED)?.[0] ?? '', {
      'templates/layouts/base.liquid': layout,
    })
    const paged = definitionOf(everywhere).routes.filter((one) => one.route.template !== undefined)
    expect(paged.filter((one) => !one.shared.has('recentComments')).map((one) => one.route.name)).toEqual([])
    expect(definitionOf(everywhere).settings['not-found']?.data).toHaveProperty('recentComments')
  })
  it('is replaced by what a route declares under the same name', () => {
    const own = (demo.get('routes.yaml') ?? '').replace(
      '    posts: all-posts\n',
      '    posts: all-posts\n    categories: latest-posts\n',
    )
    const posts = routeOf(
      documentsWith('data:\n  categories: category-counts\n  recentComments: latest-comments\n', {
        'routes.yaml': own,
      }),
      'posts',
    )
    expect(posts?.route.data).toMatchObject({ categories: 'latest-posts', recentComments: 'latest-comments' })
    expect([...(posts?.shared ?? [])]).toEqual(['recentComments'])
  })
  it.each([
    ['an unknown query', 'data:\n  categories: categry-counts\n', 'data-query-unknown'],
    ['a query with pages', 'data:\n  posts: all-posts\n', 'data-shared-pages'],
    [
      'a query with a parameter of an address',
      'data:\n  more: posts-in-category\n',
      'data-parameter-missing',
    ],
    [
      'a query that decides whether a page exists',
      'data:\n  post: { query: post-by-slug, with: { slug: "\'moth\'" } }\n',
      'data-shared-decides',
    ],
    ['a name with another meaning', 'data:\n  blog: latest-posts\n', 'data-name-reserved'],
  ])('is refused with %s, at its line', (_, data, code) => {
    const documents = documentsWith(data)
    const line = (documents.get('blog.yaml') ?? '').split('\n').indexOf('data:') + 2
    expect(problemsOf(documents)).toContainEqual(expect.objectContaining({ code, file: 'blog.yaml', line }))
  })
})
