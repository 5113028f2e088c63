// Drafted routes: on a new blog, one after the other, and beside existing documents.
import { describe, expect, it } from 'vitest'
import { blank, demo, problemsOf } from '../testing/demo.ts'
import { readDefinition } from './read.ts'
import { STARTER_PAGER } from './starter-pager.ts'
import { startingPoint, type StartingPointKind } from './starting-points.ts'

const PAGER = 'templates/partials/pager.liquid'

/** Returns the documents with a drafted route, and which of them are new or changed. */
function grown(
  documents: ReadonlyMap<string, string>,
  kind: StartingPointKind,
  name: string,
  path = `/${name}`,
) {
  const read = readDefinition(documents)
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  const made = startingPoint({ kind, name, path }, { documents, routes: read.value.routes, parts: demo })
  if (!made.ok) throw new Error(JSON.stringify(made.problems))
  const { changes } = made.value
  const changed = changes.map((one) => one.document)
  expect(new Set(changed).size).toBe(changed.length)
  return {
    changed,
    documents: new Map([...documents, ...changes.map((one) => [one.document, one.text] as const)]),
  }
}

describe('a new blog', () => {
  const kinds: StartingPointKind[] = ['single', 'listing', 'category', 'month', 'page']
  it('is valid after every kind of route, in any order', () => {
    for (const order of [kinds, kinds.toReversed()]) {
      let documents = blank
      for (const [at, kind] of order.entries()) {
        documents = grown(documents, kind, `made-${at}`).documents
        expect(problemsOf(documents)).toEqual([])
      }
    }
  })
  it('gets one pager, with its first listing', () => {
    const first = grown(blank, 'listing', 'journal')
    expect(first.changed).toContain(PAGER)
    expect(first.documents.get(PAGER)).toBe(STARTER_PAGER)
    for (const kind of ['category', 'month'] as const) {
      const next = grown(first.documents, kind, 'more')
      expect(next.changed).not.toContain(PAGER)
      expect(next.documents.get('templates/pages/more.liquid')).toContain(
        "{% render 'partials/pager', paged: posts %}",
      )
    }
  })
  it.each([
    ['single', '/story/:slug', '/story/:slug'],
    ['single', '/:slug/read', '/:slug/read'],
    ['month', '/archive/:year', '/archive/:year/:month'],
    ['category', '/:categories/all', '/:categories/all/:category'],
  ] as const)('gets each parameter once: %s at %s', (kind, path, expected) => {
    expect(grown(blank, kind, 'made', path).documents.get('routes.yaml')).toContain(`path: ${expected}\n`)
  })
  it('gets no pager with a single post', () => {
    expect(grown(blank, 'single', 'story').changed).toEqual([
      'routes.yaml',
      'queries/story.yaml',
      'templates/pages/story.liquid',
    ])
  })
})

describe('the pager', () => {
  it('is the demo’s', () => expect(demo.get(PAGER)).toBe(STARTER_PAGER))
  it('is kept if its author changed it, and does not replace another partial of that name', () => {
    const own = grown(new Map([...blank, [PAGER, '<nav>{{ paged.page }}</nav>']]), 'listing', 'journal')
    expect(own.changed).not.toContain(PAGER)
    const other = grown(new Map([...blank, [PAGER, 'a small machine']]), 'listing', 'journal')
    expect(other.changed).toContain('templates/partials/pager-2.liquid')
    expect(other.documents.get(PAGER)).toBe('a small machine')
    expect(other.documents.get('templates/pages/journal.liquid')).toContain("{% render 'partials/pager-2'")
  })
})

describe('a page without a layout', () => {
  it('has a canonical link and supports light and dark', () => {
    const bare = new Map(
      [...blank]
        .filter(([path]) => !path.startsWith('templates/layouts/'))
        .map(([path, text]) => [path, path === 'templates/pages/home.liquid' ? '<h1>Home</h1>' : text]),
    )
    const page = grown(bare, 'listing', 'journal').documents.get('templates/pages/journal.liquid')
    expect(page).toContain('<link rel="canonical" href="{{ request.canonical }}">')
    expect(page).toContain('<meta name="color-scheme" content="light dark">')
  })
})

describe('comments on a post', () => {
  const story = grown(blank, 'single', 'story').documents
  it('are added to the route of a post on a new blog', () => {
    const { documents, changed } = grown(story, 'comments', 'say', '/story/:slug')
    expect(problemsOf(documents)).toEqual([])
    expect(changed).toContain('templates/pages/story.liquid')
    const read = readDefinition(documents)
    const route = read.ok ? read.value.routes.find((one) => one.route.name === 'say') : undefined
    expect(route?.route).toMatchObject({
      path: '/story/:slug/comments',
      action: 'add-comment',
      then: 'story',
    })
    expect(documents.get('templates/partials/comment-form.liquid')).toContain(
      "{{ 'say' | url: slug: post.slug }}",
    )
  })
  it('are refused for a route that shows no post, and where a document has the same name', () => {
    const refused = (documents: ReadonlyMap<string, string>, path: string) => {
      const read = readDefinition(documents)
      if (!read.ok) throw new Error(JSON.stringify(read.problems))
      const made = startingPoint(
        { kind: 'comments', name: 'say', path },
        { documents, routes: read.value.routes, parts: demo },
      )
      return made.ok ? [] : made.problems.map((one) => one.code)
    }
    expect(refused(blank, '/')).toEqual(['starting-point-no-post'])
    const own = new Map([...story, ['assets/comments.js', '// mine']])
    expect(refused(own, '/story/:slug')).toEqual(['starting-point-comments-taken'])
  })
})
