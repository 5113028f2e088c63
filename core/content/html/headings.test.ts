// The headings of a text, compared with what parse5 finds in the same HTML.
import fc from 'fast-check'
import { parseFragment, type DefaultTreeAdapterTypes } from 'parse5'
import { expect, it } from 'vitest'
import { headingsOf } from './headings.ts'
import { renderMarkdown } from './markdown.ts'

it('have the anchor, the text and the level', () => {
  const { html } = renderMarkdown(
    '# One & *two*\n\nText.\n\n## `code` **bold**\n\n### One\n\n### One\n\n<h2 id="x">Typed</h2>\n',
  )
  expect(headingsOf(html).map(({ id, text, level }) => [id, text, level])).toEqual([
    ['h-one-two', 'One & two', 1],
    ['h-code-bold', 'code bold', 2],
    ['h-one', 'One', 3],
    ['h-one-2', 'One', 3],
  ])
  expect(headingsOf('<p>None</p>')).toEqual([])
})

it('are those that a parser of the HTML standard finds', () => {
  type Node = DefaultTreeAdapterTypes.Node
  const textOf = (node: Node): string =>
    'value' in node ? node.value : 'childNodes' in node ? node.childNodes.map(textOf).join('') : ''
  const found = (node: Node): string[][] => {
    if (!('childNodes' in node)) return []
    const id = 'attrs' in node ? node.attrs.find((one) => one.name === 'id')?.value : undefined
    if (id !== undefined && /^h[1-6]$/.test(node.nodeName))
      return [[id, textOf(node).replace(/\s+/g, ' ').trim(), node.nodeName.slice(1)]]
    return node.childNodes.flatMap(found)
  }
  const line = fc.tuple(fc.constantFrom('# ', '## ', '### ', '- ', '> ## ', ''), fc.string({ maxLength: 20 }))
  fc.assert(
    fc.property(fc.array(line, { maxLength: 6 }), (lines) => {
      const { html } = renderMarkdown(lines.map(([sign, text]) => `${sign}${text}`).join('\n\n'))
      expect(headingsOf(html).map(({ id, text, level }) => [id, text, String(level)])).toEqual(
        found(parseFragment(html)),
      )
    }),
  )
})
