import fc from 'fast-check'
import { parseFragment, type DefaultTreeAdapterTypes } from 'parse5'
import { describe, expect, it } from 'vitest'
import { escapeHtml } from './safe-html.ts'

/** Texts with many special characters. HTML has no NUL, and its parsers turn CR into LF. */
const text = fc
  .array(fc.oneof(fc.constantFrom('&', '<', '>', '"', "'", '&amp;', '&#39', '</i>', '<!--'), fc.string()))
  .map((parts) => parts.join('').replace(/[\0\r]/g, ''))

describe('escaped text', () => {
  it('is read by an HTML parser as what it was, in content and in an attribute', () => {
    fc.assert(
      fc.property(text, (plain) => {
        const escaped = escapeHtml(plain)
        const [element] = parseFragment(`<i title="${escaped}">${escaped}</i>`).childNodes
        const { attrs, childNodes } = element as DefaultTreeAdapterTypes.Element
        expect(attrs).toEqual([{ name: 'title', value: plain }])
        expect(childNodes.map((one) => (one as DefaultTreeAdapterTypes.TextNode).value).join('')).toBe(plain)
      }),
      { numRuns: 2_000 },
    )
  })

  it('has no special character but those of its references', () => {
    expect(escapeHtml(`<a href="x">'&amp;'</a>`)).toBe(
      '&lt;a href=&quot;x&quot;&gt;&#39;&amp;amp;&#39;&lt;/a&gt;',
    )
    expect(escapeHtml('&')).toBe('&amp;')
    expect(escapeHtml('')).toBe('')
  })
})
