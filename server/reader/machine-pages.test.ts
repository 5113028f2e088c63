// Feeds, sitemaps and robots.txt of the running blog, declared as routes.
import { parse } from 'parse5'
import robotsParser from 'robots-parser'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { previewImage } from '../jobs/preview-image.ts'
import { saveTexts, textOf } from '../testing/edits.ts'
import { testWorkbench, type TestWorkbench } from '../testing/workbench.ts'

const ORIGIN = 'https://cobble-lane.example'
/** The demo has a feed, a sitemap, robots.txt and images of its posts. */
const ROUTES = `- name: category-rss
  path: /category/:category/feed.xml
  params: { category: slug }
  data: { category: category-by-slug, posts: posts-in-category }
  feed: rss
- name: json-feed
  path: /feed.json
  data: { posts: latest-posts }
  feed: json
- name: mixed-feed
  path: /mixed.json
  data: { comments: latest-comments, posts: latest-posts }
  feed: json
- name: tag-feed
  path: /tag/:tag/feed.json
  params: { tag: slug }
  data: { tag: tag-by-slug, posts: posts-with-tag }
  feed: json
  texts: full
- name: blog-preview
  path: /preview.png
  preview: { accent: '#1f6f5c' }
- name: security
  path: /.well-known/security.txt
  security: { contact: ['mailto:safe@cobble-lane.example'], expires: 2027-06-30 }
`

let test: TestWorkbench
beforeAll(async () => {
  test = await testWorkbench()
  const saved = await saveTexts(test.blog, {
    'routes.yaml': `${ROUTES}\n${await textOf(test.blog, 'routes.yaml')}`,
    'blog.yaml': `${await textOf(test.blog, 'blog.yaml')}\norigin: ${ORIGIN}\n`,
  })
  expect(saved.ok ? [] : saved.problems).toEqual([])
})
afterAll(() => test.close())

const read = async (path: string) => {
  const response = await test.readers.request(`${ORIGIN}${path}`)
  return {
    status: response.status,
    type: response.headers.get('content-type') ?? '',
    text: await response.text(),
  }
}
const all = (text: string, name: string) =>
  [...text.matchAll(new RegExp(`<${name}[^>]*>([^<]*)</${name}>`, 'g'))].map(([, value = '']) => value)

interface Item {
  url: string
  content_html?: string
}

describe('a feed', () => {
  it('has the posts of its query, at absolute addresses that answer', async () => {
    const { status, type, text } = await read('/feed.atom')
    expect([status, type]).toEqual([200, 'application/atom+xml; charset=utf-8'])
    const links = [...text.matchAll(/<link rel="alternate" type="text\/html" href="([^"]*)"/g)].map(
      ([, href = '']) => href,
    )
    expect(links).toHaveLength(6)
    for (const href of links) {
      expect(href.startsWith(`${ORIGIN}/`)).toBe(true)
      expect((await read(href.slice(ORIGIN.length))).status).toBe(200)
    }
    const page = (await read('/')).text
    for (const href of links.slice(1)) expect(page).toContain(`href="${href.slice(ORIGIN.length)}"`)
  })
  it('of a category has its name and its posts, and no draft', async () => {
    const { text, type } = await read('/category/textiles/feed.xml')
    expect(type).toBe('application/rss+xml; charset=utf-8')
    expect(all(text, 'title')[0]).toBe('Textiles · Cobble Lane Repair Café')
    expect(all(text, 'link')[0]).toBe(`${ORIGIN}/category/textiles`)
    expect(all(text, 'category').filter((one) => one === 'Textiles').length).toBeGreaterThan(2)
    expect(text).not.toContain('velcro')
    expect((await read('/category/nothing/feed.xml')).status).toBe(404)
  })
  it('as JSON has the same posts', async () => {
    const { type, text } = await read('/feed.json')
    expect(type).toBe('application/feed+json; charset=utf-8')
    const { items } = JSON.parse(text) as { items: { url: string; id: string }[] }
    expect(items).toHaveLength(5)
    const atom = (await read('/feed.atom')).text
    for (const { url, id } of items) expect([atom.includes(url), atom.includes(id)]).toEqual([true, true])
  })
  it('has posts, whatever other data the route has', async () => {
    const urls = async (path: string) =>
      (JSON.parse((await read(path)).text) as { items: Item[] }).items.map((one) => one.url)
    expect(await urls('/mixed.json')).toEqual(await urls('/feed.json'))
  })
  it('keeps the id of a post whose slug changes', async () => {
    const { items } = JSON.parse((await read('/feed.json')).text) as { items: { url: string; id: string }[] }
    const [first] = items
    const slug = first?.url.split('/').at(-1) ?? ''
    await test.api('POST', '/api/changes', {
      steps: [{ do: 'change-slug', kind: 'post', from: slug, to: `${slug}-2` }],
    })
    const after = (JSON.parse((await read('/feed.json')).text) as { items: { url: string; id: string }[] })
      .items[0]
    expect([after?.id, after?.url]).toEqual([first?.id, `${first?.url ?? ''}-2`])
  })
})

it('a feed of a later page is that page, and beyond the last one there is none', async () => {
  const page = async (query: string) => await read(`/category/electrical/feed.xml${query}`)
  const [first, second] = [all((await page('')).text, 'guid'), all((await page('?page=2')).text, 'guid')]
  expect(second.length).toBeGreaterThan(0)
  expect(first.filter((one) => second.includes(one))).toEqual([])
  expect((await page('?page=99')).status).toBe(404)
  const { status, headers } = await test.readers.request(`${ORIGIN}/category/electrical/feed.xml?page=1`)
  expect([status, headers.get('location')]).toEqual([308, '/category/electrical/feed.xml'])
})

it('what an author sees is for no shared cache', async () => {
  const { answer } = await test.api<{ response: { headers: Record<string, string> } }>(
    'GET',
    '/api/walk?path=/feed.atom&as=author',
  )
  expect(answer.response.headers['cache-control']).toContain('private')
})

it('a feed of a tag has the whole texts of its posts, if the route says so', async () => {
  const page = async (query: string) =>
    (JSON.parse((await read(`/tag/measuring/feed.json${query}`)).text) as { items: Item[] }).items
  const items = [...(await page('')), ...(await page('?page=2'))]
  const { url = '', content_html: html = '' } =
    items.find((one) => one.url.includes('/our-first-hundred-saturdays')) ?? {}
  expect(html).toContain('<figcaption>The shelf of things that went home working</figcaption>')
  expect(html).toContain(`src="${ORIGIN}/media/shelf.jpg"`)
  expect((await read(url.slice(ORIGIN.length))).text).toContain('That last one I have forty-one times')
  expect(html).toContain('That last one I have forty-one times')
  expect(html).not.toMatch(/(href|src)="\//)
})

describe('a preview image', () => {
  const image = async (path: string, init: RequestInit = {}) => {
    const response = await test.readers.request(`${ORIGIN}${path}`, init)
    const bytes = Buffer.from(await response.arrayBuffer())
    return { status: response.status, headers: response.headers, bytes }
  }
  it('is a PNG of 1200 × 630 pixels, which networks show without cutting (common practice)', async () => {
    const { status, headers, bytes } = await image('/posts/moth/preview.png')
    expect([status, headers.get('content-type')]).toEqual([200, 'image/png'])
    const { format, width, height } = await sharp(bytes).metadata()
    expect([format, width, height]).toEqual(['png', 1200, 630])
    expect(bytes.length).toBeLessThan(100_000)
  })
  it('has the title of its post, and the colours of its route', async () => {
    const [one, other, blog] = await Promise.all(
      ['/posts/moth/preview.png', '/posts/zip-surgery/preview.png', '/preview.png'].map((path) =>
        image(path),
      ),
    )
    expect(new Set([one, other, blog].map((made) => made?.headers.get('etag'))).size).toBe(3)
    const bar = { left: 90, top: 82, width: 60, height: 8 }
    const { dominant } = await sharp(await sharp(blog?.bytes).extract(bar).toBuffer()).stats()
    expect(dominant.g).toBeGreaterThan(dominant.r)
  })
  it('draws what the title contains, in any of the fonts that ship', async () => {
    const inked = async (title: string) => {
      const bytes = await previewImage({ title, blog: '', colours: { accent: '#fbf9f4' } })
      const { channels } = await sharp(bytes).greyscale().stats()
      return 255 - (channels[0]?.mean ?? 255)
    }
    const empty = await inked('')
    const [latin = 0, long = 0, japanese = 0, hidden = 0] = await Promise.all(
      ['Zip', 'Zip surgery for beginners', '雨の日', '\u{1f9f5}'].map(inked),
    )
    expect(latin).toBeGreaterThan(empty + 0.3)
    expect(long).toBeGreaterThan(latin + 1)
    expect(japanese).toBeGreaterThan(empty + 0.3)
    // No font has it, so nothing is drawn, and no box.
    expect(hidden).toBeCloseTo(empty, 5)
  })
  it('is not sent twice, and not there for a draft or nothing', async () => {
    const etag = (await image('/posts/moth/preview.png')).headers.get('etag') ?? ''
    expect((await image('/posts/moth/preview.png', { headers: { 'if-none-match': etag } })).status).toBe(304)
    const head = await image('/posts/moth/preview.png', { method: 'HEAD' })
    expect([head.status, head.headers.get('etag'), head.bytes.length]).toEqual([200, etag, 0])
    expect((await image('/posts/nothing/preview.png')).status).toBe(404)
    const draft = await test.database.query<{ slug: string }[]>(
      'SELECT slug FROM post WHERE published_at IS NULL LIMIT 1',
    )
    expect((await image(`/posts/${draft[0]?.slug ?? ''}/preview.png`)).status).toBe(404)
  })
  it('is described in a walk', async () => {
    const { answer } = await test.api<{ response: { body: string; bytes: number } }>(
      'GET',
      '/api/walk?path=/posts/moth/preview.png',
    )
    expect(answer.response).toMatchObject({
      body: 'A PNG image of 1200 × 630 pixels.',
      bytes: (await image('/posts/moth/preview.png')).bytes.length,
    })
  })
})

it('security.txt is where RFC 9116 wants it (§3), as plain text', async () => {
  const { status, type, text } = await read('/.well-known/security.txt')
  expect([status, type]).toEqual([200, 'text/plain; charset=utf-8'])
  expect(text).toBe(
    `Contact: mailto:safe@cobble-lane.example\nExpires: 2027-06-30T00:00:00Z\nCanonical: ${ORIGIN}/.well-known/security.txt\n`,
  )
})

describe('a sitemap', () => {
  it('tells when pages, and what lists posts, have changed', async () => {
    const changed = async (path: string) =>
      new RegExp(`<loc>${ORIGIN}${path}</loc><lastmod>([^<]*)</lastmod>`).exec(
        (await read('/sitemap.xml')).text,
      )?.[1]
    const latest = async (where: string) =>
      (
        await test.database.query<{ at: Date }[]>(
          `SELECT max(post.updated_at) AS at FROM post WHERE published_at <= now() AND ${where}`,
        )
      )[0]?.at.toISOString()
    expect(await changed('/category/textiles')).toBe(
      await latest("category_id = (SELECT id FROM category WHERE slug = 'textiles')"),
    )
    expect(await changed('/author/joachim-bell')).toBe(
      await latest("author_id = (SELECT id FROM author WHERE slug = 'joachim-bell')"),
    )
    expect(await changed('/tag/volunteers')).toBe(
      await latest(
        "id IN (SELECT post_id FROM post_tag JOIN tag ON tag.id = tag_id WHERE tag.slug = 'volunteers')",
      ),
    )
    expect(await changed('/about')).toMatch(/^\d{4}-/)
  })
  it('has every address of every page that readers get, and none of a draft', async () => {
    const { status, type, text } = await read('/sitemap.xml')
    expect([status, type]).toEqual([200, 'application/xml; charset=utf-8'])
    const urls = all(text, 'loc')
    expect(new Set(urls).size).toBe(urls.length)
    expect(urls).toEqual(expect.arrayContaining([`${ORIGIN}/`, `${ORIGIN}/posts/moth`, `${ORIGIN}/about`]))
    for (const url of urls.filter((_, index) => index % 7 === 0))
      expect([url, (await read(url.slice(ORIGIN.length))).status]).toEqual([url, 200])
    expect(text).not.toContain('velcro')
    expect(text).toMatch(/<loc>[^<]*\/posts\/moth<\/loc><lastmod>\d{4}-/)
  })
  it('has no other part', async () => {
    for (const part of ['0', '2', 'x', '1.5'])
      expect((await read(`/sitemap.xml?part=${part}`)).status).toBe(404)
    expect((await read('/sitemap.xml?part=1')).status).toBe(200)
  })
})

it('robots.txt is read by another reader (robots-parser) as meant', async () => {
  const { text, type } = await read('/robots.txt')
  expect(type).toBe('text/plain; charset=utf-8')
  const robots = robotsParser(`${ORIGIN}/robots.txt`, text)
  expect(robots.getSitemaps()).toEqual([`${ORIGIN}/sitemap.xml`])
  expect(robots.isAllowed(`${ORIGIN}/posts/moth`, 'any')).toBe(true)
  expect(robots.isAllowed(`${ORIGIN}/search?q=x`, 'any')).toBe(false)
})

describe('routes for programs', () => {
  it.each<[string, string]>([
    ['a feed without posts', 'feed: atom'],
    ['a feed of one post', 'data: { post: post-by-slug }\n  feed: atom'],
    ['two answers', 'feed: atom\n  template: pages/home'],
    ['whole texts of all posts', 'data: { posts: all-in-one }\n  feed: atom\n  texts: full'],
    ['whole texts without a feed', 'texts: full\n  template: pages/home'],
    ['security.txt where nobody looks', 'security: { contact: [mailto:a@b.example], expires: 2027-06-30 }'],
    ['a contact that is no address', 'security: { contact: [me], expires: 2027-06-30 }'],
    [
      'a contact of two lines',
      'security: { contact: ["mailto:a@b.example\\nPolicy: x"], expires: 2027-06-30 }',
    ],
    ['a day that is none', 'security: { contact: [mailto:a@b.example], expires: soon }'],
  ])('are refused for %s', async (_, keys) => {
    const before = await textOf(test.blog, 'routes.yaml')
    const saved = await saveTexts(test.blog, {
      'queries/all-in-one.yaml': 'from: posts\nwhere: [published]\norder: [-publishedAt, -id]\ntake: all\n',
      'routes.yaml': `- name: wrong\n  path: /wrong\n  ${keys}\n${before}`,
    })
    expect(saved.ok).toBe(false)
  })
  it('are walked like any other', async () => {
    const { answer } = await test.api<{
      route: { name: string }
      response: { body: string }
      queries: { runs: unknown[] }
    }>('GET', '/api/walk?path=/feed.atom')
    expect(answer.route.name).toBe('feed')
    expect(answer.queries.runs).toHaveLength(1)
    expect(parse(answer.response.body).nodeName).toBe('#document')
  })
})
