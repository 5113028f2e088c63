// The allow-list of HTML: a definition can remove elements, typed or rendered from Markdown, and cannot add any.
import fc from 'fast-check'
import { parseFragment } from 'parse5'
import { describe, expect, it } from 'vitest'
import { setHtmlRule } from '../../blog/edit.ts'
import { Settings } from '../../shapes/schemas.ts'
import { readYaml } from '../../shapes/yaml.ts'
import { droppedBy, sanitizeHtml, unknownElements, WHOLE_LIST, type HtmlRules } from './allow-list.ts'
import { ALLOWED_ELEMENTS } from '../../shapes/html-elements.ts'
import { markdownForPages, pipelineOf, renderMarkdown } from './markdown.ts'

const rules = (without: string[], typed = true): HtmlRules => ({ typed, without: new Set(without) })

interface Node {
  tagName?: string
  attrs?: { name: string }[]
  childNodes?: Node[]
}
function* walk(node: Node): Generator<Node> {
  yield node
  for (const child of node.childNodes ?? []) yield* walk(child)
}
const tagsOf = (html: string) =>
  [...walk(parseFragment(html) as unknown as Node)].flatMap((node) => node.tagName ?? [])

describe('a narrowed allow-list', () => {
  it.each([
    ['**bold** <b>also</b>', ['strong'], '<p>bold <b>also</b></p>\n'],
    ['![a](/a.png)text', ['img'], '<p>text</p>\n'],
    ['<details><summary>More</summary>x</details>', ['details', 'summary'], 'Morex'],
    ['| a |\n|---|\n| b |', ['table', 'thead', 'tbody', 'tr', 'th', 'td'], '\n\n\na\n\n\n\n\nb\n\n\n\n'],
  ])('%s without %j', (text, without, html) => {
    expect(
      renderMarkdown(text, { rules: rules(without) })
        .html.replace(/\s+/g, ' ')
        .trim(),
    ).toBe(html.replace(/\s+/g, ' ').trim())
  })
  it('shows typed HTML as text if typing HTML is not allowed, and still renders Markdown', () => {
    const { html } = renderMarkdown('**a** <b onclick="x()">b</b>\n\n<div>c</div>', {
      rules: rules([], false),
    })
    expect(html).toBe(
      '<p><strong>a</strong> &lt;b onclick="x()"&gt;b&lt;/b&gt;</p>\n<p>&lt;div&gt;c&lt;/div&gt;</p>\n',
    )
    expect(renderMarkdown('## Anchors', { rules: rules([], false) }).html).toContain('id="h-anchors"')
  })
  it('allows nothing that the full list does not (1,000 random lists and texts)', () => {
    const names = ALLOWED_ELEMENTS.map((one) => one.name)
    const element = fc.constantFrom(...names, 'script', 'iframe', 'style', 'object', 'form', 'svg', 'math')
    const text = fc
      .array(fc.tuple(element, fc.constantFrom('', ' onclick="x"', ' style="x"', ' href="javascript:x"')), {
        maxLength: 8,
      })
      .map((parts) => parts.map(([name, more]) => `<${name}${more}>x</${name}>`).join(' '))
    fc.assert(
      fc.property(fc.subarray(names), text, (without, html) => {
        const narrow = sanitizeHtml(html, rules(without)).html
        for (const tag of tagsOf(narrow)) {
          expect(names).toContain(tag)
          // A parser adds <tbody> to tables.
          if (!['tbody', 'tr', 'colgroup'].includes(tag)) expect(without).not.toContain(tag)
        }
        expect(narrow).not.toMatch(/onclick|style=|javascript:/)
      }),
      { numRuns: 1_000 },
    )
  })
  it('has its own pipeline identifier', () => {
    const names = [
      WHOLE_LIST,
      rules([], false),
      rules(['img']),
      rules(['b', 'img']),
      rules(['img'], false),
    ].map(pipelineOf)
    expect(new Set(names).size).toBe(names.length)
    expect(pipelineOf(rules(['img', 'b']))).toBe(pipelineOf(rules(['b', 'img'])))
  })
})

describe('droppedBy', () => {
  const dropped = (html: string) =>
    droppedBy(html, sanitizeHtml(html).html).map((one) => [one.what, one.times])
  it.each([
    ['<p>fine <b>this</b></p>', []],
    ['<script>x</script><script>y</script>', [['<script>', 2]]],
    ['<b onclick="x()">a</b>', [['onclick of <b>', 1]]],
    ['<a href="javascript:alert(1)">a</a>', [['href="javascript:alert(1)" of <a>', 1]]],
    [
      '<p style="color:red" class="x">a</p>',
      [
        ['style of <p>', 1],
        ['class="x" of <p>', 1],
      ],
    ],
    ['<img src="data:image/png;base64,AAAA">', [['src="data:image/png;base64,AAAA" of <img>', 1]]],
    [
      '<input type="text"><input type="checkbox">',
      [
        ['<input>', 1],
        ['type="text" of <input>', 1],
      ],
    ],
  ])('of %s', (html, expected) => expect(dropped(html)).toEqual(expected))
  it('reports nothing that Markdown renders', () => {
    const text =
      '## A\n\n1. b\n\n| c |\n|:-:|\n| d |\n\n- [x] e\n\nf[^1]\n\n[^1]: g\n\n```js\nh\n```\n\n![i](/i.png) [j](https://j.test)'
    const html = markdownForPages(text, WHOLE_LIST)
    const gone = droppedBy(html, sanitizeHtml(html).html).map((one) => one.what)
    // Alignment is a style that becomes an attribute, and the classes are for scripts that no page has.
    expect(gone.filter((one) => !/^(style|class=).* of </.test(one))).toEqual([])
  })
})

describe('the rule in blog.yaml', () => {
  const TEXT = '# About us\ntitle: Café # the name\n\nlanguage: en\n'
  const settings = (text: string) => readYaml('blog.yaml', text, Settings)
  it('is added to blog.yaml, read back and removed again', () => {
    const text = setHtmlRule(TEXT, { typed: false, without: ['img', 'details'] })
    expect(text).toBe(`${TEXT}html:\n  typed: false\n  without: [img, details]\n`)
    expect(settings(text ?? '')).toMatchObject({
      ok: true,
      value: { html: { typed: false, without: ['img', 'details'] } },
    })
    expect(setHtmlRule(text ?? '', { typed: true, without: [] })).toBe(TEXT)
    expect(setHtmlRule('- a', { typed: true, without: [] })).toBe(undefined)
  })
  it('may only name elements of the list', () => {
    const result = settings('title: A\nhtml:\n  without: [script]\n')
    expect(result.ok ? [] : result.problems).toMatchObject([{ line: 3 }])
    expect(unknownElements(['b', 'blink'])).toEqual(['blink'])
  })
})
