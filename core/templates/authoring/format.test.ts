// Formatting of templates: lines are indented, and nothing but spaces at the ends of lines changes.
import fc from 'fast-check'
import { parse, serialize } from 'parse5'
import { describe, expect, it } from 'vitest'
import { demo } from '../../testing/demo.ts'
import { formatTemplate } from './format.ts'

const templates = [...demo].filter(([path]) => path.endsWith('.liquid'))

describe('formatting', () => {
  it.each<[string, string, string]>([
    ['elements', '<ul>\n<li>\na\n</li>\n</ul>', '<ul>\n  <li>\n    a\n  </li>\n</ul>'],
    ['an element that ends on its line', '  <p>a</p>\n <p>b</p>', '  <p>a</p>\n<p>b</p>'],
    [
      'elements without an end tag',
      '<div>\n<img src="a>b">\n<br>\nx\n</div>',
      '<div>\n  <img src="a>b">\n  <br>\n  x\n</div>',
    ],
    [
      'tags of Liquid, which do not indent',
      '<p>\n{% if a %}\nb\n{% endif %}\n</p>',
      '<p>\n  {% if a %}\n  b\n  {% endif %}\n</p>',
    ],
    [
      'branches that each open an element',
      '{% if a %}\n<div class="a">\n{% else %}\n<div>\n{% endif %}\nx\n</div>',
      '{% if a %}\n<div class="a">\n{% else %}\n<div>\n  {% endif %}\n  x\n</div>',
    ],
    [
      'elements that keep their spaces',
      '<div>\n<pre>\n a\n   b\n</pre>\n</div>',
      '<div>\n  <pre>\n a\n   b\n  </pre>\n</div>',
    ],
    ['a tag on several lines', '<a href="x"\nclass="y">z</a>', '<a href="x"\n  class="y">z</a>'],
    ['raw text', '<p>\n{% raw %}\n  <b>\n{% endraw %}\n</p>', '<p>\n  {% raw %}\n  <b>\n{% endraw %}\n</p>'],
    [
      'a condition in a tag',
      '<a{% if a > b %} b{% endif %}>\nx\n</a>',
      '<a{% if a > b %} b{% endif %}>\n  x\n</a>',
    ],
    ['an empty text', ' \n', ' \n'],
  ])('indents %s', (_, text, wanted) => {
    expect(formatTemplate(text)).toBe(wanted)
  })

  it('changes nothing but spaces and line ends, and nothing the second time', () => {
    const part = fc.constantFrom(
      ...[
        '<div>',
        '</div>',
        '<p class="a">',
        '</p>',
        '<br>',
        '<pre>',
        '</pre>',
        '<!-- a -->',
        '\n',
        '\n  ',
        ' ',
        'word',
      ],
      ...[
        '{% if a %}',
        '{% else %}',
        '{% endif %}',
        '{{ a | b: "<i>" }}',
        '<a href="{{ b }}">',
        '</a>',
        '<',
        '>',
        '"',
        '{%',
      ],
    )
    fc.assert(
      fc.property(fc.array(part, { maxLength: 40 }), (parts) => {
        const text = parts.join('')
        const once = formatTemplate(text)
        expect(once.replace(/\s+/g, '')).toBe(text.replace(/\s+/g, ''))
        expect(formatTemplate(once)).toBe(once)
      }),
    )
  })

  it.each(templates)('keeps the elements and texts of %s', (_, text) => {
    const shown = (html: string) => serialize(parse(html)).replace(/\s+/g, ' ')
    expect(shown(formatTemplate(text))).toBe(shown(text))
  })

  it('takes time in proportion to the length', () => {
    for (const part of [
      '<',
      '<a ',
      '{{',
      '{% raw %}',
      '"',
      '<a "',
      "<a '{{",
      '<!--',
      '<pre>',
      '<a "{{x}}',
      '{% raw %}{% endraw %}',
      '<p>\n',
    ]) {
      const began = performance.now()
      formatTemplate(part.repeat(20_000))
      expect(performance.now() - began, part).toBeLessThan(2_000)
    }
  })
})
