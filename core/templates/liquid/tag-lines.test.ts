// Lines that hold only tags print nothing.
import fc from 'fast-check'
import { Liquid } from 'liquidjs'
import { expect, it } from 'vitest'
import { parsed } from './engine.ts'

const DATA = { yes: true, list: [1, 2] }

function rendered(text: string): string {
  const engine = new Liquid({ templates: { part: 'part\n' } })
  return String(engine.renderSync(parsed(engine, text), DATA))
}

it.each([
  ['a\n{% if yes %}\nb\n{% endif %}\nc', 'a\nb\nc'],
  [
    '<ul>\n  {% for one in list %}\n  <li>{{ one }}</li>\n  {% endfor %}\n</ul>\n',
    '<ul>\n  <li>1</li>\n  <li>2</li>\n</ul>\n',
  ],
  ['  {% if yes %}  {% assign x = 1 %}\t\n{{ x }}\n{% endif %}', '1\n'],
  ['{% assign x = 1 %}\n{{ x }}', '1'],
  ['a {% if yes %}\nb{% endif %}\nc', 'a \nb\nc'],
  ['{% if yes %} a {% endif %}\nb', ' a \nb'],
  ['  {% render "part" %}\nb', 'part\nb'],
  ['{% echo "a" %}\nb', 'a\nb'],
  ['{% increment x %}\nb', '0\nb'],
  ['{% raw %}\n{{ a }}\n{% endraw %}\nb', '\n{{ a }}\n\nb'],
  ['a\r\n{% if yes %}\r\nb\r\n{% endif %}\r\nc', 'a\r\nb\r\nc'],
  ['a\n\n{% if yes %}\n\nb\n{% endif %}', 'a\n\n\nb\n'],
  ['a\n  {%- if yes -%}\n  b\n  {%- endif %}\nc', 'ab\nc'],
  ['{% # note %}\na', 'a'],
  ['{% comment %}\nx\n{% endcomment %}\na', 'a'],
])('%j prints %j', (text, expected) => {
  expect(rendered(text)).toBe(expected)
})

it('nothing but spaces and line ends is dropped', () => {
  const piece = fc.constantFrom(
    ...[
      '{% if yes %}',
      '{% endif %}{% if yes %}',
      '{% assign x = 1 %}',
      '{{ x }}',
      'text',
      '\n',
      ' ',
      '\t',
      '\r\n',
    ],
  )
  fc.assert(
    fc.property(fc.array(piece, { maxLength: 12 }), (pieces) => {
      const opened = pieces.filter((one) => one === '{% if yes %}').length
      if (opened === 0 && pieces.some((one) => one.startsWith('{% endif'))) return
      const text = `{% if yes %}${pieces.join('')}${'{% endif %}'.repeat(opened + 1)}`
      const words = (one: string) => one.replace(/\s/g, '')
      const engine = new Liquid()
      expect(words(rendered(text))).toBe(words(String(engine.parseAndRenderSync(text, DATA))))
    }),
  )
})
