// Finding a text in all documents.
import { expect, it } from 'vitest'
import { findText } from './find-text.ts'

const documents = new Map([
  ['templates/b.liquid', '<p>\n  {{ Post.title }}\n</p>'],
  ['routes.yaml', '- name: post\n  path: /posts'],
])

it('finds lines in the order of documents, whatever the capitals are', () => {
  expect(findText(documents, ' POST ')).toEqual({
    found: [
      { document: 'routes.yaml', line: 1, text: '- name: post' },
      { document: 'routes.yaml', line: 2, text: 'path: /posts' },
      { document: 'templates/b.liquid', line: 2, text: '{{ Post.title }}' },
    ],
    total: 3,
  })
})
it('finds nothing for an empty text', () => expect(findText(documents, ' ')).toEqual({ found: [], total: 0 }))
it('counts what it leaves out, and shows the part of a long line that has the text', () => {
  const { found, total } = findText(
    new Map([['a', `${`${'x'.repeat(5_000)}needle\n`.repeat(60)}`]]),
    'needle',
  )
  expect([
    found.length,
    total,
    found[0]?.text.includes('needle'),
    (found[0]?.text.length ?? 0) <= 200,
  ]).toEqual([50, 60, true, true])
})
