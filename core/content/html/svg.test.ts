// SVG images: what draws is kept; what runs or loads is removed. Vectors: OWASP XSS Filter Evasion Cheat Sheet (SVG) and
// html5sec.org numbers 5, 10, 11, 94, 101, 109, 125, 130 (from memory); sizes: SVG 2 §8.6 and CSS Values 3 §6.2.
import { parseFragment } from 'parse5'
import { describe, expect, it } from 'vitest'
import { cleanSvg } from './svg.ts'

const svg = (inside: string, more = 'viewBox="0 0 10 20"') =>
  `<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" ${more}>${inside}</svg>`
function cleaned(text: string) {
  const result = cleanSvg(text)
  if (!result.ok) throw new Error(result.problem.message)
  return result
}

describe('cleanSvg', () => {
  const DRAWING = svg(
    '<title>A &amp; B</title><defs><linearGradient id="g"><stop offset="0" stop-color="#fff"/></linearGradient>' +
      '<style>.a { fill: url(#g) }</style></defs><g transform="translate(1 2)"><path class="a" d="M0 0h9"></path>' +
      '<use href="#g"></use><text x="1">1 &lt; 2</text></g>',
  )
  it('keeps what draws, and is idempotent', () => {
    const { svg: once, removed } = cleaned(DRAWING)
    expect(removed).toEqual([])
    for (const part of [
      '<path class="a" d="M0 0h9">',
      'fill: url(#g)',
      '<use href="#g">',
      '1 &lt; 2',
      'A &amp; B',
    ])
      expect(once).toContain(part)
    expect(cleaned(once).svg).toBe(once)
  })
  it.each([
    ['viewBox="0 0 10 20"', 10, 20],
    ['width="30" height="40"', 30, 40],
    ['width="1in" height="72pt" viewBox="0 0 1 1"', 96, 96],
    ['width="25.4mm" viewBox="0 0 100 50"', 96, 48],
    ['height="50" viewBox="0 0 100 50"', 100, 50],
    ['width="100%" height="100%" viewBox="0,0,7,9"', 7, 9],
  ])('computes the size of %s as %s × %s pixels', (more, width, height) => {
    expect(cleanSvg(svg('', more))).toMatchObject({ ok: true, width, height })
  })
  it.each([
    ['', 'svg-empty'],
    [svg('', ''), 'svg-size-missing'],
    [svg('', 'viewBox="0 0 0 9"'), 'svg-size-missing'],
    ['<html xmlns="http://www.w3.org/1999/xhtml"></html>', 'svg-root-missing'],
    ['<svg viewBox="0 0 1 1"></svg>', 'svg-root-missing'],
    [svg('<g>'), 'svg-xml-invalid'],
    [svg('&bogus;'), 'svg-xml-invalid'],
    [svg('<g '.repeat(3)), 'svg-xml-invalid'],
    [svg('<g>'.repeat(300) + '</g>'.repeat(300)), 'svg-too-deep'],
    [`${svg('')}<g/>`, 'svg-xml-invalid'],
  ])('case %#: refuses %.40s', (text, code) => {
    expect(cleanSvg(text)).toMatchObject({ ok: false, problem: { code } })
  })
  it('does not expand entities that the file declares', () => {
    const result = cleanSvg(
      `<!DOCTYPE svg [<!ENTITY x SYSTEM "file:///etc/passwd"><!ENTITY l "lol&x;">]>${svg('<text>&l;</text>')}`,
    )
    expect(result.ok).toBe(false)
  })
})

const VECTORS = [
  '<script>alert(1)</script>',
  '<script xlink:href="data:,alert(1)"/>',
  '<g onload="alert(1)"/>',
  '<g ONLOAD="alert(1)"/>',
  '<a xlink:href="javascript:alert(1)"><rect/></a>',
  '<a href="javascript:alert(1)"><text>x</text></a>',
  '<image href="https://evil.test/x.png"/>',
  '<image xlink:href="data:image/svg+xml;base64,PHN2ZyBvbmxvYWQ9YWxlcnQoMSk+"/>',
  '<use href="https://evil.test/x.svg#a"/>',
  '<use xlink:href="data:image/svg+xml;base64,PHN2Zz4=#x"/>',
  '<foreignObject><body xmlns="http://www.w3.org/1999/xhtml" onload="alert(1)"/></foreignObject>',
  '<animate attributeName="href" values="javascript:alert(1)"/>',
  '<set attributeName="onmouseover" to="alert(1)"/>',
  '<handler xmlns:ev="http://www.w3.org/2001/xml-events" ev:event="load">alert(1)</handler>',
  '<iframe xmlns="http://www.w3.org/1999/xhtml" src="javascript:alert(1)"/>',
  '<rect style="fill: url(https://evil.test/x)"/>',
  '<rect fill="url( \'https://evil.test/x\' )"/>',
  '<style>@import "https://evil.test/x.css";</style>',
  '<style>rect { background: url(//evil.test/x) }</style>',
  String.raw`<style>rect { background: u\72l(//evil.test/x) }</style>`,
  '<style><![CDATA[@import url(https://evil.test)]]></style>',
  '<style>*{}</style><style>&lt;/style>&lt;script>alert(1)&lt;/script></style>',
  '<title>&lt;/title>&lt;script>alert(1)&lt;/script></title>',
  '<text x="&quot;/>&lt;script>alert(1)&lt;/script>">x</text>',
  '<filter><feImage href="https://evil.test/x"/></filter>',
  '<metadata><script>alert(1)</script></metadata>',
  '<svg onload="alert(1)"/>',
  '<x:script xmlns:x="http://www.w3.org/2000/svg">alert(1)</x:script>',
  '<embed src="x"/><object data="x"/><video src="x"/><audio src="x"/>',
]

interface Node {
  nodeName: string
  attrs?: { name: string; value: string }[]
  childNodes?: Node[]
}
function* walk(node: Node): Generator<Node> {
  yield node
  for (const child of node.childNodes ?? []) yield* walk(child)
}

describe('what runs, loads or embeds', () => {
  it.each(VECTORS)('%s', (vector) => {
    const { svg: safe } = cleaned(svg(vector))
    // Parsed as a browser parses it in a page, which is less strict than XML.
    for (const node of walk(parseFragment(safe) as unknown as Node)) {
      expect([
        'script',
        'foreignObject',
        'image',
        'feImage',
        'iframe',
        'animate',
        'set',
        'a',
        'embed',
        'object',
      ]).not.toContain(node.nodeName)
      for (const { name, value } of node.attrs ?? []) {
        expect(name).not.toMatch(/^on/i)
        if (/href$/.test(name)) expect(value).toMatch(/^#/)
        expect(value).not.toMatch(/evil\.test|javascript:/)
      }
    }
    expect(safe).not.toMatch(/evil\.test/)
  })
  it('reports what it removes, with the line', () => {
    const { removed } = cleaned(svg('\n<rect onclick="x()"/>\n<script>x()</script>'))
    expect(removed).toEqual([
      { what: 'onclick of <rect>', line: 2 },
      { what: '<script>', line: 3 },
    ])
  })
})
