// @vitest-environment jsdom
// Feeds: read back by two independent readers, and held against the rules of RFC 4287, RSS 2.0 and JSON Feed 1.1.
import fc from 'fast-check'
import { parseFragment, type DefaultTreeAdapterTypes } from 'parse5'
import { parseDocument } from 'htmlparser2'
import { describe, expect, it } from 'vitest'
import { renderMarkdown } from '../content/html/markdown.ts'
import { writeFeed, xml, type Feed } from './feeds.ts'
import { withAbsoluteAddresses } from './whole-text.ts'
import { writeRobots, writeSitemap, writeSitemapIndex } from './sitemap.ts'

const feed: Feed = {
  id: 'https://cobble-lane.example/feed.atom',
  title: 'Cobble Lane',
  description: 'What we mend',
  language: 'en-GB',
  home: 'https://cobble-lane.example/posts',
  self: 'https://cobble-lane.example/feed.atom',
  items: [
    {
      id: 'tag:cobble-lane.example,2026:post:1',
      url: 'https://cobble-lane.example/posts/moth',
      title: 'Moth & <friends>',
      summary: 'They “eat” wool ]]> & more',
      html: null,
      published: new Date('2026-09-17T08:40:00Z'),
      updated: new Date('2026-09-18T10:00:00Z'),
      author: 'Wen',
      terms: ['Textiles', 'mending'],
      image: 'https://cobble-lane.example/media/moth.svg',
    },
  ],
}
const withItem = (changes: Partial<Feed['items'][number]>): Feed => ({
  ...feed,
  items: feed.items.map((one) => ({ ...one, ...changes })),
})
/** Reads XML as a browser does: a fault makes the whole document an error. */
const parsed = (text: string) => new DOMParser().parseFromString(text, 'application/xml')

describe('an Atom feed', () => {
  const document = parsed(writeFeed('atom', feed))
  const texts = (name: string) => [...document.getElementsByTagName(name)].map((one) => one.textContent)

  it('has what RFC 4287 requires: id, title and updated of the feed (4.1.1) and of each entry (4.1.2)', () => {
    expect(document.documentElement.namespaceURI).toBe('http://www.w3.org/2005/Atom')
    expect(texts('id')).toEqual([feed.id, feed.items[0]?.id])
    expect(texts('title')).toEqual(['Cobble Lane', 'Moth & <friends>'])
    // RFC 3339, with a capital T and Z (3.3).
    for (const date of [...texts('updated'), ...texts('published')])
      expect(date).toMatch(/^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(\.\d+)?Z$/)
  })
  it('has an author (4.1.1), and links to itself and to the page (4.2.7.2)', () => {
    expect(texts('name')).toEqual(['Cobble Lane', 'Wen'])
    const links = [...document.getElementsByTagName('link')].map((one) => [
      one.getAttribute('rel'),
      one.getAttribute('href'),
    ])
    expect(links).toEqual([
      ['self', feed.self],
      ['alternate', feed.home],
      ['alternate', feed.items[0]?.url],
    ])
  })
  it('was updated when its latest entry was', () =>
    expect(texts('updated')[0]).toBe('2026-09-18T10:00:00.000Z'))
  it('is valid without entries', () => {
    expect(parsed(writeFeed('atom', { ...feed, items: [] })).getElementsByTagName('updated')).toHaveLength(1)
  })
})

describe('an RSS feed', () => {
  const document = parsed(writeFeed('rss', feed))
  it('has what RSS 2.0 requires of a channel: title, link and description', () => {
    const channel = document.querySelector('channel')
    expect(
      ['title', 'link', 'description'].map((name) => channel?.querySelector(`:scope > ${name}`)?.textContent),
    ).toEqual(['Cobble Lane', feed.home, 'What we mend'])
  })
  it('has dates as RFC 822 has them, with four digits of the year', () => {
    expect(document.querySelector('pubDate')?.textContent).toBe('Thu, 17 Sep 2026 08:40:00 GMT')
  })
  it('has an id that is no address', () => {
    const guid = document.querySelector('guid')
    expect([guid?.textContent, guid?.getAttribute('isPermaLink')]).toEqual([feed.items[0]?.id, 'false'])
  })
})

it('a JSON feed has what JSON Feed 1.1 requires: version, title, and id and content of each item', () => {
  const json = JSON.parse(writeFeed('json', feed)) as { version: string; title: string; items: object[] }
  expect(json.version).toBe('https://jsonfeed.org/version/1.1')
  expect(json.title).toBe('Cobble Lane')
  expect(json.items).toEqual([
    expect.objectContaining({
      id: 'tag:cobble-lane.example,2026:post:1',
      content_text: 'They “eat” wool ]]> & more',
      date_published: '2026-09-17T08:40:00.000Z',
      authors: [{ name: 'Wen' }],
      tags: ['Textiles', 'mending'],
    }),
  ])
})

describe('whole texts', () => {
  const html = withAbsoluteAddresses(
    '<p id="h-a"><a href="/tag/wool">wool</a> <a href="#fn1">1</a> <picture><source srcset="/media/a.jpg/320.webp 320w, /media/a.jpg/640.webp 640w"><img src="../media/a.jpg" alt="x &amp; y"></picture> <a href="mailto:a@b.example">mail</a></p>',
    'https://cobble-lane.example/posts/moth',
  )
  const whole = withItem({ html })

  it('have the same addresses as a browser finds on the page (package parse5), whatever they contain', () => {
    const base = 'https://cobble-lane.example/posts/moth'
    const found = (text: string): [string, string][] => {
      const attributes = (node: DefaultTreeAdapterTypes.Node): [string, string][] => [
        ...('attrs' in node ? node.attrs : []).flatMap(({ name, value }): [string, string][] =>
          ['href', 'src'].includes(name) ? [[name, value]] : [],
        ),
        ...('childNodes' in node ? node.childNodes.flatMap(attributes) : []),
      ]
      return attributes(parseFragment(text))
    }
    const part = fc.constantFrom(
      '/a',
      '?b=1&c=2',
      '#d',
      '"',
      "'",
      '<',
      '>',
      '&amp;',
      ' ',
      'é',
      '..',
      '//x.example',
      '%20',
    )
    fc.assert(
      fc.property(fc.array(part, { maxLength: 6 }), fc.array(part, { maxLength: 6 }), (href, src) => {
        const page = renderMarkdown(
          `[a > b](<${href.join('').replace(/[<>]/g, '')}>) <img alt='> href="/x"' src='${src.join('').replaceAll("'", '')}'>`,
        ).html
        expect(found(withAbsoluteAddresses(page, base))).toEqual(
          found(page).map(([name, value]) => [name, new URL(value, base).href]),
        )
      }),
    )
  })
  it('have no frames, which feed readers do not show', () => {
    const embed =
      '<figure class="embed"><details><iframe src="https://a.example/"></iframe></details><figcaption>a</figcaption></figure>'
    expect(withAbsoluteAddresses(embed, 'https://cobble-lane.example/')).toBe(
      '<figure class="embed"><figcaption>a</figcaption></figure>',
    )
  })

  it('have absolute addresses only', () => {
    const found = [...html.matchAll(/(?:href|src|srcset)="([^"]*)"/g)].map((one) => one[1])
    expect(found).toEqual([
      'https://cobble-lane.example/tag/wool',
      'https://cobble-lane.example/posts/moth#fn1',
      'https://cobble-lane.example/media/a.jpg/320.webp 320w, https://cobble-lane.example/media/a.jpg/640.webp 640w',
      'https://cobble-lane.example/media/a.jpg',
      'mailto:a@b.example',
    ])
  })
  it.each([
    // RFC 4287 §3.1.1.2: a browser that reads the content as HTML gets the text.
    ['atom', 'content', 'html'],
    ['rss', 'content:encoded', null],
  ] as const)('of a post are the content of %s', (format, element, type) => {
    const [found] = parsed(writeFeed(format, whole)).getElementsByTagName(element)
    expect([found?.getAttribute('type') ?? null, found?.textContent]).toEqual([type, html])
  })
  it('of a post are content_html of a JSON feed (1.1), with the excerpt as its summary', () => {
    const { items } = JSON.parse(writeFeed('json', whole)) as { items: Record<string, unknown>[] }
    expect(items[0]).toMatchObject({ content_html: html, summary: 'They “eat” wool ]]> & more' })
    expect(items[0]).not.toHaveProperty('content_text')
  })
})

describe('hostile texts', () => {
  it('arrive as text, whatever they contain, for two readers of XML', () => {
    const text = fc.oneof(
      fc.string({ unit: 'binary' }),
      fc.constantFrom(
        ']]>',
        '<script>alert(1)</script>',
        '&amp;',
        '\u0000\u0008\u000b',
        '\ud800',
        '\uffff',
        '<?x?>',
        '<!--',
        '"\'',
      ),
    )
    fc.assert(
      fc.property(text, text, (title, summary) => {
        for (const format of ['atom', 'rss'] as const) {
          const written = writeFeed(
            format,
            withItem({ title, summary, html: summary, author: title, terms: [summary] }),
          )
          const document = parsed(written)
          expect(document.getElementsByTagName('parsererror')).toHaveLength(0)
          expect(document.getElementsByTagName('script')).toHaveLength(0)
          const elements = JSON.stringify(namesIn(parseDocument(written, { xmlMode: true })))
          expect(elements).not.toContain('"script"')
        }
        JSON.parse(writeFeed('json', withItem({ title, summary })))
      }),
    )
  })
  it('lose the characters that XML does not allow, and nothing else', () => {
    expect(xml('a\u0000b\u001fc\ud83d\ude00d\ud800e\uffff')).toBe('abc\ud83d\ude00de')
    expect(xml('\t\n\r')).toBe('\t\n\r')
  })
})

function namesIn(node: { children?: unknown[]; name?: string }): unknown[] {
  return [node.name, ...(node.children ?? []).map((one) => namesIn(one as typeof node))]
}

describe('a sitemap', () => {
  it('has loc, and lastmod where it is known (sitemaps.org protocol 0.9)', () => {
    const document = parsed(
      writeSitemap([
        { url: 'https://a.example/?a=1&b=2', changed: new Date('2026-01-02T03:04:05Z') },
        { url: 'https://a.example/b', changed: null },
      ]),
    )
    expect(document.documentElement.namespaceURI).toBe('http://www.sitemaps.org/schemas/sitemap/0.9')
    expect(
      [...document.querySelectorAll('url')].map((one) => [...one.children].map((child) => child.textContent)),
    ).toEqual([['https://a.example/?a=1&b=2', '2026-01-02T03:04:05.000Z'], ['https://a.example/b']])
  })
  it('that is split has an index', () => {
    expect(
      parsed(writeSitemapIndex(['https://a.example/sitemap.xml?part=1'])).querySelector(
        'sitemapindex > sitemap > loc',
      )?.textContent,
    ).toBe('https://a.example/sitemap.xml?part=1')
  })
})

it('robots.txt names the sitemap, and closes searches (RFC 9309, 2.2)', () => {
  expect(writeRobots('https://a.example/sitemap.xml', ['/search?'])).toBe(
    'User-agent: *\nDisallow: /search?\n\nSitemap: https://a.example/sitemap.xml\n',
  )
  expect(writeRobots(undefined, [])).toBe('User-agent: *\nAllow: /\n')
})
