// What is extracted from a page.
import { describe, expect, it } from 'vitest'
import { ownPath } from './addresses.ts'
import { readPage } from './read-page.ts'

describe('a page', () => {
  it.each<[string, string[]]>([
    ['<p>&lt;p&gt;one&lt;/p&gt;</p>', ['<p>one</p>']],
    ['<p>&amp;lt;p&amp;gt;one</p>', ['&lt;p&gt;one']],
    ['<p>a &lt;a href=&quot;/x&quot;&gt;b&lt;/a&gt;</p>', ['a <a href="/x">b</a>']],
    ['<p>Use <code>&lt;p&gt;</code></p>', []],
    ['<textarea>&lt;p&gt;</textarea>', []],
    ['<p>1 &lt; 2 and a &lt;- b</p>', []],
    ['<p>&lt;custom&gt; is no element of HTML</p>', []],
  ])('%s shows HTML as text: %j', (html, wanted) => expect(readPage(html).escaped).toEqual(wanted))

  it('has links with their texts, and resources with their kinds', () => {
    const { links, resources } = readPage(
      '<link rel="icon" href="/i.svg"><link rel="canonical" href="/c"><a rel="next" href="/a">x <b>y</b></a>' +
        '<img src="/a.png" srcset="/b.png 2x, /c.png 3x"><script src="/s.js"></script>',
    )
    expect(links).toEqual([
      {
        ...{ href: '/a', rel: 'next', text: 'x y', current: '', image: '', count: null },
        ...{ navigation: null, label: '', isHidden: false, isInMain: false },
      },
    ])
    expect(resources.map((one) => `${one.kind} ${one.src}`)).toEqual([
      'icon /i.svg',
      'image /a.png',
      'image /b.png',
      'image /c.png',
      'script /s.js',
    ])
  })

  it.each<[string, number | null]>([
    ['<li><a href="/a">Bicycles</a> 12</li>', 12],
    ['<li><a href="/a">Bicycles</a> <span>(1,204)</span></li>', 1_204],
    ['<li><a href="/a">Bicycles (12)</a></li>', 12],
    ['<p><a href="/a">Bicycles</a> · 12 posts</p>', 12],
    ['<p><a href="/a">Bicycles</a> 12 comments</p>', null],
    ['<p><a href="/a">Bicycles</a> and 12</p>', null],
    ['<p><a href="/a">Bicycles</a></p><p>12</p>', null],
    ['<p><a href="/a">Bicycles</a> <a href="/b">12</a></p>', null],
    ['<p><a href="/a">12 ways to fix a chair</a></p>', null],
  ])('%s has the number %s beside its link', (html, wanted) =>
    expect(readPage(html).links[0]?.count).toBe(wanted),
  )

  // Readers can write what stands there, so patterns get short texts without runs of spaces.
  it('has no number beside a link in a long text, however many spaces it has', () => {
    const countIn = (link: string, after: string) =>
      readPage(`<p><a href="/a">${link}</a>${after}</p>`).links[0]?.count
    const spaces = ' '.repeat(1_000)
    expect(countIn('b', `${spaces}12${spaces}posts${spaces}`)).toBe(12)
    expect(countIn(`b${spaces}(12)${spaces}`, '')).toBe(12)
    expect(countIn('b', ` ${'1'.repeat(31)}`)).toBeNull()
    expect(countIn(`${'b'.repeat(200)} (12)`, '')).toBeNull()
  })

  it('has forms with their fields and choices', () => {
    const html =
      '<form action="/find" id="f"><input name="q" value="x"><select name="in"><option value="">all</option><option value="a">A</option></select><button name="do" value="go">Go</button><input></form><input name="outside">'
    expect(readPage(html).forms).toEqual([
      {
        mark: 'id="f"',
        method: 'get',
        action: '/find',
        fields: [
          { name: 'q', type: 'text', value: 'x', options: [] },
          { name: 'in', type: 'select', value: '', options: ['', 'a'] },
          { name: 'do', type: 'button', value: 'go', options: [] },
        ],
      },
    ])
  })

  it('tells in which navigation its links are, what its lists have, and which pages are beside it', () => {
    const { links, neighbours, head, items } = readPage(
      '<meta charset="utf-8"><link rel="next" href="/2"><nav aria-label="Main"><a href="/a">a</a></nav><ul><li>1 <a href="/b">b</a><ol><li><a href="/c">c</a></ol> 2<li>d</ul><nav class="pager"><ul><li><a href="/f">f</a></ul></nav><nav><a href="/g">g</a></nav><nav><a href="/h"><svg></svg>h</a></nav>',
    )
    expect(links.map(({ text, navigation }) => [text, navigation])).toEqual([
      ['a', 'Main'],
      ['b', null],
      ['c', null],
      ['f', 'pager'],
      ['g', 'nav 1'],
      ['h', 'nav 2'],
    ])
    expect(links.at(-1)?.image).toBe('svg')
    expect(items).toEqual([
      { list: 0, text: '1 b 2', hrefs: ['/b'] },
      { list: 1, text: 'c', hrefs: ['/c'] },
      { list: 0, text: 'd', hrefs: [] },
      { list: 2, text: 'f', hrefs: ['/f'] },
    ])
    expect(neighbours).toEqual([{ rel: 'next', href: '/2' }])
    expect(head.namesEncoding).toBe(true)
  })

  it('has a head, ids and times', () => {
    const { head, ids, times } = readPage(
      '<html lang="en"><head><title>A &amp; B</title><meta name="viewport" content="x"><meta name="robots" content="noindex"><meta name="description" content="C"><link rel="canonical" href="/d"><meta property="og:url" content="/d"><link rel="alternate" type="application/atom+xml" href="/f.atom"><link rel="alternate" hreflang="de" href="/de"></head><body><svg><title>drawn</title></svg><h1>G <b>h</b></h1><h1>i</h1><p id="e"><time datetime="2026">f</time></p>',
    )
    expect(head).toEqual({
      language: 'en',
      title: 'A & B',
      description: 'C',
      canonical: '/d',
      viewport: 'x',
      robots: 'noindex',
      heading: 'G h',
      namesEncoding: false,
      shared: new Map([['og:url', '/d']]),
      feeds: [{ href: '/f.atom', type: 'application/atom+xml' }],
      base: null,
    })
    expect([[...ids], times]).toEqual([['e'], [{ value: '2026', text: 'f' }]])
  })

  it('has links in its main content, apart from navigations, lists and headings', () => {
    const { links } = readPage(
      '<a href="/1">a</a><main><p><a href="/2">b</a></p><nav><a href="/3">c</a></nav><ul><li><a href="/4">d</a></ul><h1><a href="/5">e</a></h1><a href="/6">f</a></main><a href="/7">g</a>',
    )
    expect(links.filter((one) => one.isInMain).map((one) => one.href)).toEqual(['/2', '/6'])
  })

  it('has times without a datetime, whose text then counts', () => {
    const { times } = readPage('<time>2 <b>March</b></time><p><time datetime="2026-03">a</time></p>')
    expect(times).toEqual([
      { value: '2 March', text: '2 March' },
      { value: '2026-03', text: 'a' },
    ])
  })

  it.each([
    ['<link rel="stylesheet" href="/a.css">', true],
    ['<link rel="stylesheet" media="(min-width: 40em), print" href="/a.css">', true],
    ['<style>a {}</style>', true],
    ['<link rel="stylesheet" media="print" href="/a.css">', false],
    ['<link rel="style" href="/a.css"><link rel="preload" as="style" href="/a.css">', false],
  ])('%s: styles for screens %s', (html, wanted) => expect(readPage(html).isStyled).toBe(wanted))

  it('names the classes around its main heading, and around several paragraphs', () => {
    const { around, structured } = readPage(
      '<div class="a b"><h1 class="c">x</h1></div><div class="d"><img><br><p>1<p>2<p>3</div><div class="e"><p>1<p>2</div><script type="application/ld+json">{"a": "&amp;"}</script><script>1</script>',
    )
    expect([...around].sort()).toEqual(['a', 'b', 'c', 'd'])
    expect(structured).toEqual(['{"a": "&amp;"}'])
  })

  it('has inline styles and scripts, but scripts that only hold data are none', () => {
    const html =
      '<style>a{}</style><p style="x" onclick="y">a</p><script>1</script><script type="application/ld+json">{}</script><a href=" javascript:x">b</a>'
    expect(readPage(html).inline.map((one) => one.kind)).toEqual([
      'style element',
      'style attribute',
      'script attribute',
      'script element',
      'script address',
    ])
  })
})

it.each<[string, string | undefined]>([
  ['/a?b=1#c', '/a?b=1'],
  ['b', '/x/b'],
  ['?page=2', '/x/y?page=2'],
  ['#top', undefined],
  ['mailto:a@b.example', undefined],
  ['https://other.example/a', undefined],
  ['//other.example/a', undefined],
  ['http://[', undefined],
])('%s on /x/y is the own path %s', (href, wanted) => expect(ownPath(href, '/x/y')).toBe(wanted))

describe('images', () => {
  it.each([
    ['<img src="/media/a.png">', ['/media/a.png']],
    ['<img src="/media/a.png" width="10">', ['/media/a.png']],
    ['<img src="/media/a.png" width="" height="">', ['/media/a.png']],
    ['<img src="/media/a.png" width="10" height="20">', []],
    ['<img alt="">', []],
  ])('%s', (html, wanted) => expect(readPage(html).unsized).toEqual(wanted))
})

describe('what is chosen in a form', () => {
  const chosen = (options: string) =>
    readPage(`<form><select name="c">${options}</select></form>`).forms[0]?.fields[0]?.value
  it.each([
    ['<option value="a">A<option value="b">B', 'a'],
    ['<option value="a">A<option value="b" selected>B', 'b'],
    ['', ''],
  ])('%s', (options, wanted) => expect(chosen(options)).toBe(wanted))
})

// With a search among all elements around, for each element, this takes most of a minute.
it('may be nested ten thousand levels deep', () => {
  const levels = 10_000
  const page = readPage(
    Array.from(
      { length: levels },
      (_, index) => `<div class="a b${index % 7}"><p>x</p><a href="/${index}">`,
    ).join(''),
  )
  expect([page.links.length, [...page.around].sort()]).toEqual([
    levels,
    ['a', ...Array.from({ length: 7 }, (_, index) => `b${index}`)],
  ])
})
