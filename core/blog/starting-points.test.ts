// Routes that are made whole: on a new blog, one after the other, and beside what is there already.
import { describe, expect, it } from 'vitest'
import { blank, demo, problemsOf } from '../testing/demo.ts'
import { readDefinition } from './read.ts'
import { STARTER_PAGER } from './starter-pager.ts'
import { startingPoint, type StartingPointKind } from './starting-points.ts'

const PAGER = 'templates/partials/pager.liquid'

/** The documents with a route of that kind, and which of them are new or changed. */
function grown(documents: ReadonlyMap<string, string>, kind: StartingPointKind, name: string) {
  const read = readDefinition(documents)
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  const made = startingPoint({ kind, name, path: `/${name}` }, { documents, routes: read.definition.routes })
  if (!made.ok) throw new Error(made.message)
  const changed = made.changes.map((one) => one.document)
  expect(new Set(changed).size).toBe(changed.length)
  return {
    changed,
    documents: new Map([...documents, ...made.changes.map((one) => [one.document, one.text] as const)]),
  }
}

describe('a new blog', () => {
  const kinds: StartingPointKind[] = ['single', 'listing', 'category', 'month', 'page']
  it('grows by every kind, in any order, and is a whole definition each time', () => {
    for (const order of [kinds, kinds.toReversed()]) {
      let documents = blank
      for (const [at, kind] of order.entries()) {
        documents = grown(documents, kind, `made-${at}`).documents
        expect(problemsOf(documents)).toEqual([])
      }
    }
  })
  it('gets the pager with its first listing, and has one for all', () => {
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
  it('gets none with a single post', () => {
    expect(grown(blank, 'single', 'story').changed).toEqual([
      'routes.yaml',
      'queries/story.yaml',
      'templates/pages/story.liquid',
    ])
  })
})

describe('the pager', () => {
  it('is the one that the demo has', () => expect(demo.get(PAGER)).toBe(STARTER_PAGER))
  it('changed by its author, it is kept; another partial of that name is left alone', () => {
    const own = grown(new Map([...blank, [PAGER, '<nav>{{ paged.page }}</nav>']]), 'listing', 'journal')
    expect(own.changed).not.toContain(PAGER)
    const other = grown(new Map([...blank, [PAGER, 'a small machine']]), 'listing', 'journal')
    expect(other.changed).toContain('templates/partials/pager-2.liquid')
    expect(other.documents.get(PAGER)).toBe('a small machine')
    expect(other.documents.get('templates/pages/journal.liquid')).toContain("{% render 'partials/pager-2'")
  })
})

describe('a page of its own', () => {
  it('says its one address, and takes light and dark from the reader', () => {
    const page = grown(blank, 'listing', 'journal').documents.get('templates/pages/journal.liquid')
    expect(page).toContain('<link rel="canonical" href="{{ request.canonical }}">')
    expect(page).toContain('<meta name="color-scheme" content="light dark">')
  })
})
