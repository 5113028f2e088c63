// Changing the source of a query removes what the new source does not know, and nothing else.
import fc from 'fast-check'
import { expect, it } from 'vitest'
import { SOURCES } from '../shapes/schemas.ts'
import { demo, problemsOf } from '../testing/demo.ts'
import { changeSource } from './change-source.ts'

it('removes relations, conditions and orders that the new source does not know', () => {
  const text = `# the journal
from: posts
with: [category, commentCount]
where:
  - published # never a draft
  - { field: title, is: contains, to: moth }
  - { field: wordCount, is: more, to: 5 }
order: [-publishedAt, title]
take: all
`
  const changed = changeSource(text, 'pages')
  expect(changed?.removed).toEqual([
    'with category',
    'with commentCount',
    'where published',
    'where wordCount',
    'order -publishedAt',
  ])
  expect(changed?.text).toBe(`# the journal
from: pages
where:
  - { field: title, is: contains, to: moth }
order: [title]
take: all
`)
})

it('removes parts of groups, and groups of which nothing is left', () => {
  const text = `from: posts
where:
  - { any: [published, { field: title, is: set }] }
  - { all: [published] }
  - { not: published }
  - { field: slug, is: equal, to: x }
take: all
`
  const changed = changeSource(text, 'tags')
  expect(changed?.text).toBe(`from: tags
where:
  - { field: slug, is: equal, to: x }
take: all
`)
})

it('keeps a query whose parts the new source knows', () => {
  const text = 'from: categories\nwhere:\n  - { field: slug, is: equal, to: :slug }\ntake: one\n'
  expect(changeSource(text, 'tags')).toEqual({ text: text.replace('categories', 'tags'), removed: [] })
})

it('does not change a text that is not a query', () => {
  expect(changeSource('from: [posts', 'tags')).toBeUndefined()
  expect(changeSource('words', 'tags')).toBeUndefined()
})

it('results in a valid query, whatever the sources are', () => {
  const valid = [...demo].filter(([path]) => path.startsWith('queries/'))
  fc.assert(
    fc.property(fc.constantFrom(...valid), fc.constantFrom(...SOURCES), ([, text], source) => {
      const changed = changeSource(text, source)?.text ?? ''
      // A cursor or a search in a query may need an order or a field that the source lacks. All other problems are errors.
      const problems = problemsOf(new Map([...demo, ['queries/changed.yaml', changed]])).filter(
        ({ file }) => file === 'queries/changed.yaml',
      )
      expect(problems.filter(({ code }) => /unknown|operator/.test(code))).toEqual([])
    }),
    { numRuns: 40 },
  )
})
