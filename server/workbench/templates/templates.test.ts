// The Templates area: a page with unsaved templates, what its lines print, what they see, and completion.
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { TemplatePreview } from '../../../contract/templates.ts'
import { everyAddress } from '../../reader/addresses/real-addresses.ts'
import { textOf } from '../../testing/edits.ts'
import { testWorkbench, type TestWorkbench } from '../../testing/workbench.ts'

const CARD = 'templates/partials/card.liquid'
const LISTING = 'templates/pages/listing.liquid'

let test: TestWorkbench
beforeAll(async () => (test = await testWorkbench()))
afterAll(() => test.close())

async function preview(body: object) {
  const { status, answer } = await test.api<TemplatePreview>('POST', '/api/template/preview', {
    document: CARD,
    texts: {},
    target: '/posts?page=2',
    ...body,
  })
  expect(status).toBe(200)
  return answer
}
const pageOf = ({ page }: TemplatePreview) => {
  if (!page) throw new Error('no page')
  return page
}
const unmarked = (html: string) => html.replace(/ data-printed="\d+"/g, '')
const changed = async (path: string, change: (text: string) => string) => ({
  [path]: change(await textOf(test.blog, path)),
})
const valuesAt = ({ lines, scopes }: TemplatePreview, line: number) => {
  const scope = lines.find((one) => one.line === line)?.scope
  return new Map((scopes[scope ?? -1]?.rows ?? []).map((row) => [row.path, row]))
}

describe('a preview', () => {
  it('is the page that readers get, except for the numbers of its elements, at addresses of every route', async () => {
    let pages = 0
    for (const compiled of test.blog.site.definition.routes) {
      if (compiled.route.template === undefined) continue
      for await (const { path } of everyAddress(test.blog, test.blog.site, compiled, { limit: 2 })) {
        const { html, status } = pageOf(await preview({ target: path }))
        const read = await test.read(path)
        expect([path, status]).toEqual([path, read.status])
        // Each reader has another token.
        const ofAll = (text: string) => text.replace(/(name="token" value=")[^"]*/, '$1')
        expect(ofAll(unmarked(html)), path).toBe(ofAll(read.text))
        pages++
      }
    }
    expect(pages).toBeGreaterThan(12)
  })

  it('has unsaved texts of several documents, and saves nothing', async () => {
    const before = await test.read('/posts')
    const answer = await preview({
      target: '/posts',
      texts: {
        ...(await changed(CARD, (text) => text.replace('{{ post.title }}', '{{ post.title | upcase }}'))),
        ...(await changed(LISTING, (text) => text.replace('{{ heading }}</h1>', 'Everything</h1>'))),
      },
    })
    const html = unmarked(pageOf(answer).html)
    expect(html).toContain('Everything</h1>')
    expect(html).toMatch(/<h2><a [^>]+>[A-Z0-9 ,’]{8,}<\/a>/)
    expect((await test.read('/posts')).text).toBe(before.text)
  })

  it('tells for each element the line that has printed it, also in a fragment and in a block of the layout', async () => {
    const { html, elements, places } = pageOf(await preview({}))
    const lineOf = (tag: RegExp, what: 'tag' | 'texts' = 'tag') => {
      const number = Number(new RegExp(`${tag.source} data-printed="(\\d+)"`).exec(html)?.[1])
      const place = places[elements[number]?.[what].find((one) => one !== -1) ?? -1]
      return place && `${place.document.replace(/^templates\/|\.liquid$/g, '')}:${place.line}#${place.time}`
    }
    const lineIn = async (path: string, part: string) =>
      (await textOf(test.blog, path)).split('\n').findIndex((line) => line.includes(part)) + 1
    const card = await lineIn(CARD, '<h2>')
    expect(lineOf(/<h2/)).toBe(`partials/card:${card}#1`)
    expect(lineOf(/<h1/)).toBe(`pages/listing:${await lineIn(LISTING, '<h1')}#1`)
    expect(lineOf(/<h1/, 'texts')).toBe(`pages/listing:${await lineIn(LISTING, '<h1')}#1`)
    expect(lineOf(/<body/)).toBe(`layouts/base:${await lineIn('templates/layouts/base.liquid', '<body')}#1`)
    const times = [...html.matchAll(/<h2 data-printed="(\d+)"/g)].map(([, number]) => {
      const place = places[elements[Number(number)]?.tag[0] ?? -1]
      return place?.document === CARD ? place.time : 0
    })
    expect(times.filter((time) => time > 0)).toEqual([1, 2, 3, 4, 5, 6])
  })

  it('shows the values at a line with their types, of the rendering that is asked for', async () => {
    const first = await preview({})
    const third = await preview({ time: 3 })
    expect(first.times).toBe(6)
    const titles = [first, third].map((one) => valuesAt(one, 6).get('post.title')?.value)
    const { text } = await test.read('/posts?page=2')
    const shown = [...text.matchAll(/<h2><a [^>]+>([^<]+)/g)].map(([, title]) => title)
    expect(titles).toEqual([shown[0], shown[2]])
    expect(valuesAt(first, 6).get('post.category')).toMatchObject({ type: 'category', canBeEmpty: true })
    expect(valuesAt(first, 6).get('post.title')).toMatchObject({ type: 'text', canBeEmpty: false })
    // A field that is not read is not fetched.
    expect(valuesAt(first, 6).get('post.wordCount')).toMatchObject({ value: null, isEmpty: false })
  })

  it('lists what a template reads, and its faults before they are saved', async () => {
    const { reads, faults } = await preview({
      texts: await changed(CARD, (text) => text.replace('{{ post.title }}', '{{ post.titel }}')),
    })
    expect(reads).toContainEqual({ path: 'post.excerpt', type: 'text', canBeEmpty: false, lines: [7] })
    expect(faults).toMatchObject([{ kind: 'field-unknown', line: 6, subject: 'post.titel' }])
  })

  it.each<[string, string]>([
    ['a tag that is not closed', '{% if post %}'],
    ['a filter that does not exist', '{{ post.title | upcas }}'],
    ['half an expression', '{{ post.'],
    ['a partial that does not exist', "{% render 'partials/none' %}"],
  ])('has the problems of %s instead of a page', async (_, text) => {
    const { page, problems } = await preview({ texts: { [CARD]: text } })
    expect(page).toBeNull()
    expect(problems[0]?.file).toBe(CARD)
  })

  it('says where a page fails', async () => {
    const texts = await changed(CARD, (text) => text.replace('{{ post.title }}', '{{ post.title | raw }}'))
    const { status, failure } = pageOf(await preview({ texts }))
    expect(status).toBe(500)
    expect(failure).toMatchObject({ document: CARD, line: 6 })
  })

  it(
    'of a template that does not come to an end is stopped, and the next one works',
    { timeout: 30_000 },
    async () => {
      const endless = '{% for a in (1..3000000) %}{% assign b = a | times: 2 %}{% endfor %}'
      const { status, answer } = await test.api<TemplatePreview>('POST', '/api/template/preview', {
        document: CARD,
        texts: { [CARD]: endless },
        target: '/posts',
      })
      expect(status === 422 || Boolean(answer.page?.failure)).toBe(true)
      expect(pageOf(await preview({})).status).toBe(200)
    },
  )

  it('of other addresses is what they answer', async () => {
    expect(pageOf(await preview({ target: '/nowhere' })).status).toBe(404)
    expect(pageOf(await preview({ target: '/posts/' })).location).toMatch(/\/posts$/)
    expect(pageOf(await preview({ target: 'posts' })).status).toBe(200)
  })
})

describe('completion', () => {
  const complete = async (text: string, texts: Record<string, string> = {}) => {
    const body = { document: CARD, text, at: text.length, texts, route: 'posts' }
    const { status, answer } = await test.api<{ from: number; choices: { value: string }[] }>(
      'POST',
      '/api/template/complete',
      body,
    )
    expect(status).toBe(200)
    return answer.choices.map((one) => one.value)
  }
  it('knows the fields of an argument in a text that does not parse', async () => {
    expect(await complete('<p>{{ post.')).toEqual(expect.arrayContaining(['title', 'category']))
  })
  it('knows other documents that are not saved', async () => {
    expect(await complete("{% render 'partials/")).not.toContain('partials/extra')
    expect(
      await complete("{% render 'partials/", { 'templates/partials/extra.liquid': '{{ post.title }}' }),
    ).toContain('partials/extra')
  })
})

describe('a partial', () => {
  const extract = async (name: string, part: RegExp) => {
    const text = await textOf(test.blog, CARD)
    const found = part.exec(text)
    const [from, to] = [found?.index ?? 0, (found?.index ?? 0) + (found?.[0].length ?? 0)]
    return await test.api<{ steps: unknown[]; given: string[] }>('POST', '/api/template/extract', {
      ...{ document: CARD, text, from, to, name },
    })
  }
  it('is extracted from a selection, and every page stays the same', async () => {
    const before = (await test.read('/posts')).text
    const { status, answer } = await extract('facts', /<p class="meta">.*<\/p>/)
    expect([status, answer.given]).toEqual([200, ['post']])
    const applied = await test.api<{ undo: unknown[] }>('POST', '/api/changes', { steps: answer.steps })
    expect(applied.status).toBe(200)
    expect(await textOf(test.blog, 'templates/partials/facts.liquid')).toMatch(/^<p class="meta">/)
    const lines = (html: string) =>
      html
        .split('\n')
        .map((line) => line.trim())
        .filter((line) => line !== '')
    expect(lines((await test.read('/posts')).text)).toEqual(lines(before))
    expect((await test.api('POST', '/api/changes', { steps: applied.answer.undo })).status).toBe(200)
  })
  it('is not extracted from half a tag', async () => {
    const { status, answer } = await extract('facts', /\{% if post.category %\}/)
    expect([status, (answer as unknown as { code: string }).code]).toEqual([422, 'extract-part-of-tag'])
  })
})

it('a text is found in all documents, with its lines', async () => {
  const { answer } = await test.api<{ found: { document: string; line: number }[]; total: number }>(
    'GET',
    '/api/documents/find?text=POST.EXCERPT',
  )
  expect(answer.found).toContainEqual(expect.objectContaining({ document: CARD, line: 7 }))
  expect(answer.total).toBe(answer.found.length)
})
