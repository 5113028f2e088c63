// Edits that leave the rest of a document as it was written.
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { parse } from 'yaml'
import {
  addCondition,
  addRoute,
  moveRoute,
  orderRoutes,
  removeRoute,
  replaceRoute,
  routeText,
  setRoutePath,
} from './edit.ts'
import type { Route } from '../shapes/schemas.ts'

const demo = readFileSync(join(import.meta.dirname, '../../demo/cobble-lane/routes.yaml'), 'utf8')
const names = (text: string) => (parse(text) as Route[]).map((one) => one.name)
const sorted = (text: string) =>
  text
    .split('\n')
    .filter((line) => line.trim() !== '')
    .sort()

const SMALL = `# All of it.
- name: a
  path: /a # here

# About b.
- name: b
  path: /b
- { name: c, path: /c }
`

describe('routes', () => {
  it('are moved with their comments', () => {
    expect(moveRoute(SMALL, 'b', 'a')).toBe(`# All of it.
# About b.
- name: b
  path: /b

- name: a
  path: /a # here

- { name: c, path: /c }
`)
    expect(moveRoute(SMALL, 'c', 'b')).toContain('- { name: c, path: /c }\n\n# About b.\n- name: b')
    expect([moveRoute(SMALL, 'x', 'a'), moveRoute(SMALL, 'a', 'x'), moveRoute(SMALL, 'a', 'a')]).toEqual([
      undefined,
      undefined,
      undefined,
    ])
  })
  it('of the demo have the same lines in any order', () => {
    const known = names(demo)
    fc.assert(
      fc.property(fc.shuffledSubarray(known, { minLength: known.length }), (order) => {
        const text = orderRoutes(demo, order) ?? ''
        expect(names(text)).toEqual(order)
        expect(sorted(text)).toEqual(sorted(demo))
        expect(text.startsWith('# Routes are tried from top to bottom')).toBe(true)
        expect(text).not.toMatch(/\n\n\n/)
      }),
    )
    expect(orderRoutes(demo, known)).toBe(demo)
    expect([
      orderRoutes(demo, known.slice(1)),
      orderRoutes(demo, ['home', ...known.slice(1)].fill('home')),
    ]).toEqual([undefined, undefined])
  })
  it('are added at the end or before another, and removed again', () => {
    const route: Route = {
      name: 'old',
      path: '/journal/:slug',
      params: { slug: 'slug' },
      redirect: { to: '/posts/:slug' },
    }
    const added = addRoute(demo, route, 'home') ?? ''
    expect(added).toContain(
      'answers.\n- name: old\n  path: /journal/:slug\n  params: { slug: slug }\n  redirect: { to: /posts/:slug }\n\n- name: home',
    )
    expect(removeRoute(added, 'old')).toBe(demo)
    expect(names(addRoute(demo, route) ?? '').at(-1)).toBe('old')
    expect(addRoute('[]\n', route)).toBe(`${routeText(route)}`)
    expect(removeRoute(routeText(route), 'old')).toBe('[]\n')
  })
  it('are replaced, and formatted as by hand', () => {
    const route: Route = {
      name: 'b',
      path: '/b/:x',
      data: { post: 'post-by-slug', more: { query: 'q', with: { c: 'post.slug' } } },
      template: 'pages/b',
      heading: 'All: of it',
    }
    expect(replaceRoute(SMALL, 'b', () => route)).toContain(`# About b.
- name: b
  path: /b/:x
  data:
    post: post-by-slug
    more: { query: q, with: { c: post.slug } }
  template: pages/b
  heading: "All: of it"
`)
  })
  it('get another path in place', () => {
    expect(setRoutePath(SMALL, 'a', '/:x(a|b)')).toContain('path: /:x(a|b) # here')
    expect(setRoutePath(SMALL, 'c', '/d')).toContain('- { name: c, path: /d }')
    expect(setRoutePath(SMALL, 'x', '/d')).toBeUndefined()
  })
  it.each(['a: 1\n', '- [', '[{ name: a, path: /a }]\n'])('%j cannot be edited', (text) => {
    expect([moveRoute(text, 'a', 'b'), removeRoute(text, 'a'), orderRoutes(text, ['a'])]).toEqual([
      undefined,
      undefined,
      undefined,
    ])
  })
})

describe('a condition', () => {
  it.each([
    ['from: posts\ntake: all\n', 'from: posts\nwhere: [published]\ntake: all\n'],
    [
      'from: posts\nwith: [tags] # all\ntake: all\n',
      'from: posts\nwith: [tags] # all\nwhere: [published]\ntake: all\n',
    ],
    ['from: posts\nwhere: []\n', 'from: posts\nwhere: [published]\n'],
    ['from: posts\nwhere: [shown]\n', 'from: posts\nwhere: [published, shown]\n'],
    [
      "from: posts\nwhere:\n  # by slug\n  - { field: slug, is: equal, to: ':slug' }\n",
      "from: posts\nwhere:\n  # by slug\n  - published\n  - { field: slug, is: equal, to: ':slug' }\n",
    ],
    ['from: posts', 'from: posts\nwhere: [published]'],
  ])('is added to %j', (text, expected) => {
    expect(addCondition(text, 'published')).toBe(expected)
  })
  it('is not added to a text that is not a query', () => {
    expect([addCondition('- a', 'x'), addCondition('where: a\n', 'x'), addCondition('a: [', 'x')]).toEqual([
      undefined,
      undefined,
      undefined,
    ])
  })
})
