import { expect, it } from 'vitest'
import { markupPosition } from './attribute.ts'

it.each<[string, string | null | undefined]>([
  ['', undefined],
  ['<p>text', undefined],
  ['a < b', undefined],
  ['<a href="/x">', undefined],
  ['</p', undefined],
  ['<a href="', 'href'],
  ['<a href="/posts/x', 'href'],
  ["<a href = 'x", 'href'],
  ['<IMG SRC=', 'src'],
  ['<img src=x', 'src'],
  ['<img src=x ', null],
  ['<img src="x" ', null],
  ['<img src="x" alt="', 'alt'],
  ['<a title="a > b" href="', 'href'],
  ['<input disabled value="', 'value'],
  ['<p class="a"', null],
  ['<p', null],
])('%j is in attribute %s', (markup, attribute) => {
  expect(markupPosition(markup)).toMatchObject(
    attribute === undefined ? { in: 'text' } : { in: 'tag', attribute },
  )
})

it.each<[string, boolean]>([
  ['<a href=', true],
  ['<a href=/posts/', true],
  ['<a href= ', true],
  ['<a href="', false],
  ["<a href='/posts/", false],
  ['<a href="x" ', false],
  ['<a href=x ', false],
])('%j is without quotes: %s', (markup, isUnquoted) => {
  expect(markupPosition(markup)).toMatchObject({ in: 'tag', isUnquoted })
})
