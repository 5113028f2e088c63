// Edits of single parts of a query: everything else stays to the letter, including comments.
import fc from 'fast-check'
import { parse } from 'yaml'
import { describe, expect, it } from 'vitest'
import { changeQuery, fetchAlso, type QueryPart } from './edit-query.ts'

const TEXT = `# What the journal shows.
from: posts
with: [category, author] # for the card
where:
  - published # never drafts
  - { field: category.slug, is: equal, to: ":category" }
order: [-publishedAt]
take: pages
pages: { size: 6, parameter: page }
`

describe('changes', () => {
  const changed = (path: (string | number)[], value: QueryPart | undefined) => changeQuery(TEXT, path, value)
  it.each([
    [['with'], ['category'], TEXT.replace('[category, author]', '[category]')],
    [['where', 1, 'is'], 'within', TEXT.replace('is: equal', 'is: within')],
    [['order'], ['title', '-id'], TEXT.replace('[-publishedAt]', '[title, -id]')],
    [['pages', 'size'], 9, TEXT.replace('size: 6', 'size: 9')],
    [['pages', 'by'], 'cursor', TEXT.replace('parameter: page }', 'parameter: page, by: cursor }')],
    [['where', 1], undefined, TEXT.replace('  - { field: category.slug, is: equal, to: ":category" }\n', '')],
    [['order'], undefined, TEXT.replace('order: [-publishedAt]\n', '')],
    [['empty'], 'not-found', `${TEXT}empty: not-found\n`],
    [['count-by'], ['publishedYear'], TEXT.replace('order:', 'count-by: [publishedYear]\norder:')],
    [
      ['where', 2],
      { field: 'title', is: 'set' },
      TEXT.replace('order:', '  - { field: title, is: set }\norder:'),
    ],
  ] as [(string | number)[], QueryPart | undefined, string][])('%j = %j', (path, value, expected) => {
    expect(changed(path, value)).toBe(expected)
  })
  it('a condition of more than a word is written on its own line', () => {
    const text = 'from: tags\nwhere: [published] # kept\ntake: all\n'
    expect(changeQuery(text, ['where', 1], { any: ['published', { field: 'name', is: 'set' }] })).toBe(
      'from: tags\nwhere:\n  # kept\n  - published\n  - { any: [published, { field: name, is: set }] }\ntake: all\n',
    )
  })
  it('removing the last condition removes “where”', () => {
    expect(changeQuery('from: tags\nwhere: [published]\ntake: all\n', ['where', 0], undefined)).toBe(
      'from: tags\ntake: all\n',
    )
  })
  it.each(['- a', 'from: [', '"just a text"', ''])('%j is not a query, and is not changed', (text) => {
    expect(changeQuery(text, ['take'], 'all')).toBe(undefined)
  })
  it('any value that is set can be read back', () => {
    fc.assert(
      fc.property(
        fc.string({ maxLength: 40 }).filter((one) => one.isWellFormed()),
        (value) => {
          const text = changeQuery(TEXT, ['where', 1, 'to'], value)
          const read = parse(text ?? '') as { where: { to: string }[]; from: string }
          expect(read.where[1]?.to).toBe(value)
          expect(read.from).toBe('posts')
        },
      ),
    )
  })
})

describe('what else a query fetches', () => {
  it.each([
    ['from: posts\ntake: all\n', 'from: posts\nwith: [tags]\ntake: all\n'],
    ['from: posts\nwith: [category, commentCount]\n', 'from: posts\nwith: [category, commentCount, tags]\n'],
    ['from: posts\nwith:\n  - category\n', 'from: posts\nwith: [category, tags]\n'],
    ['from: posts\nwith: [tags]\n', 'from: posts\nwith: [tags]\n'],
  ])('is added to what it fetches already: %j', (text, wanted) => {
    expect(parse(fetchAlso(text, 'tags'))).toEqual(parse(wanted))
    expect(fetchAlso(fetchAlso(text, 'tags'), 'tags')).toBe(fetchAlso(text, 'tags'))
  })
})
