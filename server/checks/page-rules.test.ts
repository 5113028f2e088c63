// The rules on rendered pages and on lists: each finds a planted fault, with a witness that holds, and none in the demo.
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest'
import type { Finding } from '../../core/checks/finding.ts'
import { PAGE_RULES, runRulesOf } from '../testing/checks.ts'
import { saveTexts, textOf } from '../testing/edits.ts'
import { testWorkbench, type TestWorkbench } from '../testing/workbench.ts'

let test: TestWorkbench
beforeAll(async () => (test = await testWorkbench()))
afterAll(() => test.close())

const CARD = 'templates/partials/card.liquid'
const LISTING = 'templates/pages/listing.liquid'
const PAGER = 'templates/partials/pager.liquid'
const POST = 'templates/pages/post.liquid'

let before: Record<string, string> = {}
/** Changes documents until the test has ended. */
async function plant(changes: Record<string, (text: string) => string>) {
  const texts: Record<string, string> = {}
  for (const [path, change] of Object.entries(changes)) {
    const text = await textOf(test.blog, path)
    before[path] = text
    texts[path] = change(text)
    expect(texts[path], path).not.toBe(text)
  }
  const saved = await saveTexts(test.blog, texts)
  expect(saved.ok ? [] : saved.problems).toEqual([])
}
afterEach(async () => {
  if (Object.keys(before).length > 0) await saveTexts(test.blog, before)
  before = {}
})

async function found(rules = PAGE_RULES): Promise<Finding[]> {
  const { findings, runs } = await runRulesOf(test.blog, rules)
  expect(runs.flatMap((one) => (one.failed === null ? [] : [`${one.rule}: ${one.failed}`]))).toEqual([])
  return findings
}
const titles = (findings: readonly Finding[]) => findings.map((one) => `${one.rule}: ${one.title}`)
const replaced = (part: string | RegExp, by: string) => (text: string) => text.replace(part, by)

it('none of the rules finds anything in the demo', { timeout: 60_000 }, async () => {
  expect(titles(await found())).toEqual([])
})

describe.each<[string, Record<string, (text: string) => string>, string, string]>([
  [
    'a stylesheet with a block that is not closed',
    { 'assets/blog.css': (css) => `${css}\n.a { color: red;\n` },
    'asset-invalid',
    'not closed',
  ],
  [
    'a stylesheet with a declaration that is none',
    { 'assets/blog.css': (css) => `${css}\n.a { color red; }\n` },
    'asset-invalid',
    'assets/blog.css:',
  ],
  [
    'a script that does not parse',
    { 'assets/comments.js': (js) => `${js}\nfunction (\n` },
    'asset-invalid',
    'assets/comments.js:',
  ],
  [
    'an image that a template builds',
    {
      [CARD]: replaced(
        /\{\{ post\.image \| picture[^}]*\}\}/,
        '<img src="/media/small-{{ post.image.name }}" alt="">',
      ),
    },
    'resource-broken',
    'answers 404',
  ],
  [
    'a font',
    { 'assets/blog.css': replaced('/fonts/literata.woff2', '/fonts/literat.woff2') },
    'resource-broken',
    '/fonts/literat.woff2',
  ],
  [
    'an icon',
    {
      'templates/layouts/base.liquid': replaced(
        'href="/media/sign.svg"',
        'href="/icons/{{ blog.language }}.svg"',
      ),
    },
    'resource-broken',
    '/icons/en-GB.svg',
  ],
  [
    'a link that is put together by hand',
    {
      [CARD]: replaced(
        `<h2><a href="{{ 'post' | url: slug: post.slug }}">`,
        '<h2><a href="/post/{{ post.slug }}">',
      ),
    },
    'link-broken',
    '/post/',
  ],
  [
    'HTML in a filter for text',
    { [POST]: replaced('{{ post.html }}', '{{ post.html | append: "" }}') },
    'html-escaped',
    'shows HTML as text',
  ],
  [
    'a style in an attribute',
    { [CARD]: replaced('<p class="meta">', '<p class="meta" style="color: red">') },
    'policy-blocks',
    'style="…"',
  ],
  [
    'a script in the page',
    { [LISTING]: replaced('</main>', '<script>alert(1)</script></main>') },
    'policy-blocks',
    '<script>',
  ],
  ['a handler', { [LISTING]: replaced('<h1', '<h1 onclick="go()"') }, 'policy-blocks', 'onclick'],
  [
    'a script of another site',
    { [LISTING]: replaced('</main>', '<script src="https://cdn.example/x.js"></script></main>') },
    'policy-blocks',
    'cdn.example',
  ],
  [
    'links to pages that lose the search',
    { [PAGER]: replaced('href="{{ entry.url }}"', 'href="{{ request.path }}?page={{ entry.number }}"') },
    'pager-wrong',
    'loses “q”',
  ],
  [
    'previous and next swapped',
    {
      [PAGER]: (text) =>
        text
          .replaceAll('paged.previous.url', 'paged.SWAP.url')
          .replaceAll('paged.next.url', 'paged.previous.url')
          .replaceAll('paged.SWAP.url', 'paged.next.url'),
    },
    'pager-wrong',
    'leads to page',
  ],
  [
    'a redirect to nothing',
    { 'routes.yaml': (text) => `- name: old\n  path: /old\n  redirect: { to: /never-there }\n${text}` },
    'redirect-nowhere',
    '/never-there',
  ],
  [
    'a condition that always holds',
    {
      'queries/posts-in-category.yaml': replaced(
        /- (\{ field: category.slug.*\})/,
        '- any: [published, { field: category.slug, is: within, to: ":category" }]',
      ),
    },
    'listing-same-everywhere',
    'returns the same rows',
  ],
  [
    'posts related to themselves',
    {
      'queries/more-in-category.yaml': replaced(/.*except.*\n/, ''),
      'routes.yaml': replaced(', except: post.slug', ''),
    },
    'related-includes-itself',
    'includes the post itself',
  ],
  [
    'a list without an order',
    { 'queries/all-posts.yaml': replaced('order: [-publishedAt]\n', '') },
    'order-missing',
    'all-posts',
  ],
  [
    'a list that is cut',
    {
      'queries/posts-with-tag.yaml': (text) =>
        text.replace('take: pages', 'take: first 2').replace(/pages: .*\n/, ''),
      'templates/pages/tag.liquid': (text) =>
        text
          .replace('posts.items', 'posts')
          .replace(/\{% if posts.page > 1 %\}.*?\{% endif %\}/, '')
          .replace(/\{% block links %\}.*\n/, '')
          .replace(/ +\{% render 'partials\/pager'.*\n/, ''),
    },
    'listing-cut',
    'ends after 2 posts',
  ],
  [
    'pages that no menu leads to',
    {
      'templates/layouts/base.liquid': replaced(/\{%- for item in navigation %\}[\s\S]*?\{%- endfor %\}/, ''),
    },
    'address-unlinked',
    'No page links to',
  ],
  [
    'an attribute without quotes',
    { [POST]: replaced('<div class="text">', '<div class="text" title={{ post.image.text }}>') },
    'template-attribute-unquoted',
    'without quotes',
  ],
])('%s', (_, changes, rule, part) => {
  it('is found', { timeout: 60_000 }, async () => {
    await plant(changes)
    const findings = await found()
    expect(titles(findings.filter((one) => one.rule === rule)).join('\n')).toContain(`${rule}: `)
    expect(titles(findings).join('\n')).toContain(part)
    const finding = findings.find((one) => one.rule === rule)
    if (finding?.witness.address) expect(finding.witness.address).toMatch(/^\//)
  })
})
