// What checks claim: no more than they tested, every way an unpublished post reaches a page, one finding for one cause, no
// finding without a fault, and no fix that does not help. Faults are planted in the demo and found by asking the blog.
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest'
import type { CheckFixes } from '../../contract/checks.ts'
import type { Finding } from '../../core/checks/finding.ts'
import { provenBy } from '../../core/checks/run.ts'
import { sampleOf } from '../../core/checks/sample.ts'
import { loadDocuments } from '../publish/documents.ts'
import { withoutUnpublished } from '../store/content/unpublished.ts'
import { restoreTexts, saveTexts } from '../testing/edits.ts'
import { runRulesOf } from '../testing/checks.ts'
import { testWorkbench, type TestWorkbench } from '../testing/workbench.ts'
import { attributesIn } from './attributes.ts'

let test: TestWorkbench
let stored: Map<string, string>
beforeAll(async () => {
  test = await testWorkbench()
  stored = await loadDocuments(test.database)
})
afterAll(() => test.close())

afterEach(() => restoreTexts(test.blog, stored))

const textOf = (path: string) => stored.get(path) ?? ''
async function save(changes: Record<string, string | null>) {
  const saved = await saveTexts(test.blog, changes, { insist: true })
  if (!saved.ok) throw new Error(JSON.stringify(saved))
}
/** Runs all rules, or only some of them. */
const check = async (...rules: string[]) => {
  if (rules.length > 0) return await runRulesOf(test.blog, rules)
  const result = await test.checks.run()
  expect(result.runs.filter((one) => one.failed !== null)).toEqual([])
  return result
}
const summary = (findings: readonly Finding[]) => findings.map((one) => [one.rule, one.subject])
const fixesOf = async ({ rule, subject }: Pick<Finding, 'rule' | 'subject'>) =>
  await test.api<CheckFixes>('GET', `/api/checks/fixes?${new URLSearchParams({ rule, subject }).toString()}`)
const withoutCondition = (path: string, condition: string) =>
  textOf(path)
    .replace(new RegExp(`^\\s*- ${condition}\\n`, 'm'), '')
    .replace(new RegExp(`\\[${condition}(?:, )?`), '[')
const routeBefore = (name: string, added: string) =>
  textOf('routes.yaml').replace(`- name: ${name}\n`, `${added}\n- name: ${name}\n`)

describe('a claim', () => {
  const claim = {
    sentence: 'All',
    ofSample: 'Some',
    chosen: 'the newest',
    things: ['post', 'posts'] as const,
  }
  it('is about everything only if everything was tested', () => {
    expect(provenBy({ ...claim, tested: 3, of: 3 })).toEqual({
      sentence: 'All',
      count: '3 posts',
      sample: null,
    })
    expect(provenBy({ ...claim, tested: 40, of: 2_311 })).toEqual({
      sentence: 'Some',
      count: '40 of 2,311 posts',
      sample: 'the newest',
    })
  })
  it('about a sample rests on the newest, the oldest and some between', () => {
    const all = Array.from({ length: 1_000 }, (_, at) => at)
    const sample = sampleOf(all, { oldest: 2, newest: 3, between: 4 })
    expect([sample.slice(0, 2), sample.slice(-3), new Set(sample).size]).toEqual([[0, 1], [997, 998, 999], 9])
    expect(sampleOf([1, 2, 3], { oldest: 2, newest: 3, between: 4 })).toEqual([1, 2, 3])
  })
  it('is made for no post whose addresses were not all requested', { timeout: 240_000 }, async () => {
    const routes = Array.from(
      { length: 60 },
      (_, at) =>
        `- name: more-${at}\n  path: /more-${at}/:slug\n  template: pages/home\n  data: { latest: latest-posts, categories: category-counts, recentComments: latest-comments }\n`,
    )
    await save({ 'routes.yaml': `${routes.join('')}${textOf('routes.yaml')}` })
    const { proven } = await check('draft-listed')
    const [, tested] = /^(\d) of 7 unpublished posts$/.exec(proven[0]?.count ?? '') ?? []
    expect(Number(tested)).toBeGreaterThan(0)
    expect(Number(tested)).toBeLessThan(7)
  })
  it('is made by no rule of the demo for more than it tested', async () => {
    const { findings, proven } = await check()
    expect(findings).toEqual([])
    for (const { sentence, count, sample } of proven) {
      const [, tested, of] = /^([\d,]+)(?: of ([\d,]+))? /.exec(count) ?? []
      expect([sentence, of === undefined]).toEqual([sentence, sample === null])
      expect(tested).toBeDefined()
    }
  })
})

describe('draft-listed finds an unpublished post', () => {
  const expectFound = async (query: string) => {
    const { findings: found } = await check('draft-listed')
    expect(found.map((one) => one.subject)).toContain(query)
    const one = found.find((other) => other.subject === query)
    expect(one?.affects).toBe('now')
    return one
  }

  it('in a search, by a word of its title', async () => {
    await save({ 'queries/search-posts.yaml': withoutCondition('queries/search-posts.yaml', 'published') })
    const found = await expectFound('search-posts')
    expect(found?.witness.address).toMatch(/^\/search\?q=/)
    const title = /shows “([^”]+)”/.exec(found?.witness.text ?? '')?.[1] ?? ''
    const { text } = await test.read(found?.witness.address ?? '')
    expect(text).toContain(title)
  })
  it('among related posts of another post', async () => {
    await save({
      'queries/more-in-category.yaml': withoutCondition('queries/more-in-category.yaml', 'published'),
    })
    expect((await expectFound('more-in-category'))?.witness.address).toMatch(/^\/posts\//)
  })
  it('in a count by month', async () => {
    await test.database.query(
      "UPDATE post SET published_at = now() + interval '2 days' WHERE id = (SELECT min(id) FROM post WHERE published_at IS NULL)",
    )
    await save({
      'queries/posts-by-month.yaml': withoutCondition('queries/posts-by-month.yaml', 'published'),
    })
    const found = await expectFound('posts-by-month')
    expect(found?.detail).toMatch(/without unpublished posts/)
  })
  it('on the page for addresses that are not found', async () => {
    await save({
      'queries/recent.yaml': 'from: posts\norder: [-updatedAt]\ntake: first 60\n',
      'blog.yaml': textOf('blog.yaml').replace('latest: latest-posts', 'latest: recent'),
    })
    expect((await expectFound('recent'))?.witness.address).toBe('/no-such-address-as-this')
  })
  it.each([
    ['with the post', 'with: [post]\n'],
    ['alone', ''],
  ])('through its comments, fetched %s', async (_, relation) => {
    await test.database.query(
      `INSERT INTO comment (post_id, name, text, state, once) SELECT id, 'Reader', 'Hidden words', 'shown', gen_random_uuid() FROM post WHERE published_at IS NULL LIMIT 1`,
    )
    await save({
      'queries/said.yaml': `from: comments\n${relation}order: [-createdAt]\ntake: first 3\n`,
      'templates/pages/said.liquid': '{% for one in said %}{{ one.name }}: {{ one.text }}{% endfor %}',
      'routes.yaml': routeBefore(
        'home',
        '- name: said\n  path: /said\n  data: { said: said }\n  template: pages/said',
      ),
    })
    const found = await expectFound('said')
    expect(found?.detail).toBe('/said shows the comment by “Reader” on an unpublished post.')
    await test.database.query("DELETE FROM comment WHERE text = 'Hidden words'")
  })
  it('through a parameter of the query string', async () => {
    await save({
      'queries/by-title.yaml':
        'from: posts\nwhere:\n  - { field: title, is: contains, to: ":part", when: given }\norder: [-publishedAt]\ntake: first 3\n',
      'templates/pages/by-title.liquid':
        '{% if request.params.part or request.query.part %}{% for one in posts %}{{ one.title }}{% endfor %}{% endif %}',
      'routes.yaml': routeBefore(
        'home',
        '- name: by-title\n  path: /by-title\n  query: { part: text }\n  data: { posts: by-title }\n  template: pages/by-title',
      ),
    })
    expect((await expectFound('by-title'))?.witness.address).toMatch(/^\/by-title\?part=/)
  })
  it('in JSON only', async () => {
    await save({
      'queries/all-posts.yaml': withoutCondition('queries/all-posts.yaml', 'published'),
      'templates/pages/listing.liquid': '<title>Empty</title>',
    })
    expect((await expectFound('all-posts'))?.witness.text).toMatch(/^As JSON, it shows “/)
  })
  it('at an address that no binding of the route leads to', async () => {
    // The route compares the title, so its addresses cannot be listed from the query.
    await save({
      'queries/by-part.yaml':
        'from: posts\nwhere:\n  - { field: slug, is: contains, to: ":part" }\ntake: one\nempty: not-found\n',
      'templates/pages/by-part.liquid': '{{ post.title }}',
      'routes.yaml': routeBefore(
        'home',
        '- name: by-part\n  path: /part/:part\n  data: { post: by-part }\n  template: pages/by-part',
      ),
    })
    const [found] = (await check('draft-reachable')).findings
    expect(found).toMatchObject({ subject: 'by-part', witness: { actual: '200', expected: '404' } })
    expect((await test.read(found?.witness.address ?? '')).status).toBe(200)
  })
  it('although a statement of another page fails', async () => {
    const counts = await withoutUnpublished(test.database.manager, async (pool, inSavepoint) => {
      const posts = () => inSavepoint(() => pool.query<{ n: number }>('SELECT count(*)::int AS n FROM post'))
      const before = (await posts()).rows[0]?.n
      await expect(inSavepoint(() => pool.query('SELECT no_such_column FROM post'))).rejects.toThrow(
        'no_such_column',
      )
      return [before, (await posts()).rows[0]?.n]
    })
    const visible = await test.database.query<{ n: number }[]>(
      'SELECT count(*)::int AS n FROM post WHERE published_at <= now()',
    )
    expect(counts).toEqual([visible[0]?.n, visible[0]?.n])
  })
  it('but not in what a template leaves out', async () => {
    await save({
      'queries/all-posts.yaml': withoutCondition('queries/all-posts.yaml', 'published'),
      'templates/pages/listing.liquid': '<title>Empty</title>',
      'routes.yaml': textOf('routes.yaml').replaceAll('  json: true\n', ''),
    })
    expect(summary((await check('draft-listed')).findings)).toEqual([])
  })
})

describe('one cause is one finding', () => {
  it('if a route that matches everything is moved first', async () => {
    const [head = '', ...routes] = textOf('routes.yaml').split(/^(?=- name: )/m)
    const page = routes.find((one) => one.startsWith('- name: page\n')) ?? ''
    await save({ 'routes.yaml': [head, page, ...routes.filter((one) => one !== page)].join('') })
    const { findings } = await check()
    expect(summary(findings)).toEqual([])
    // Routes that pass on what they do not find hide nothing. Without that, everything behind it is gone.
    await save({
      'queries/page-by-path.yaml': textOf('queries/page-by-path.yaml').replace('next-route', 'not-found'),
    })
    const behind = (await check()).findings
    expect(summary(behind)).toEqual([['route-never-reached', 'page']])
    expect(behind[0]?.others).toHaveLength(12)
    const { answer } = await fixesOf({ rule: 'route-never-reached', subject: 'page' })
    expect(answer.offered.map((one) => one.label)).toEqual(['Move them above route “page”'])
  })
  it('if a route moves away from the addresses that texts link to', async () => {
    const links = ['zip-surgery', 'moth'].map((slug) => `<a href="/posts/${slug}">x</a>`)
    const more = await test.database.query<{ slug: string }[]>(
      'SELECT slug FROM post WHERE published_at <= now() ORDER BY id LIMIT 5',
    )
    links.push(...more.map(({ slug }) => `<a href="/posts/${slug}">x</a>`))
    await test.database.query(`UPDATE post SET html = html || $1 WHERE slug = 'moth'`, [links.join('')])
    await save({
      'routes.yaml': textOf('routes.yaml').replaceAll('path: /posts/:slug', 'path: /journal/:slug'),
    })
    const { findings } = await check()
    expect(summary(findings)).toEqual([['slug-changed-no-redirect', '/posts/ /journal/']])
    expect(findings[0]?.others.length).toBeGreaterThan(3)
    await test.database.query(`UPDATE post SET html = replace(html, $1, '') WHERE slug = 'moth'`, [
      links.join(''),
    ])
  })
})

describe('no finding is made', () => {
  it('for links in comments, in code and in scripts', async () => {
    const layout = textOf('templates/layouts/base.liquid')
    const hidden =
      '<!-- <a href="/no-1">x</a> -->{% comment %}<a href="/no-2">x</a>{% endcomment %}<pre><code>&lt;a href="/no-3"&gt;</code></pre><script type="text/plain"><a href="/no-4"></a></script>'
    await save({ 'templates/layouts/base.liquid': layout.replace('</footer>', `${hidden}</footer>`) })
    await test.database.query(
      `UPDATE post SET html = html || '<pre><code>&lt;a href="/no-5"&gt;</code></pre>' WHERE slug = 'moth'`,
    )
    expect(summary((await check('link-unmatched', 'internal-link-dead', 'image-missing')).findings)).toEqual(
      [],
    )
    await test.database.query(
      `UPDATE post SET html = replace(html, '<pre><code>&lt;a href="/no-5"&gt;</code></pre>', '') WHERE slug = 'moth'`,
    )
  })
  it('for a link to the OpenAPI document, as long as there is one', async () => {
    const layout = textOf('templates/layouts/base.liquid').replace(
      '</footer>',
      '<a href="/openapi.json">API</a></footer>',
    )
    await save({ 'templates/layouts/base.liquid': layout })
    expect(summary((await check('link-unmatched', 'internal-link-dead', 'image-missing')).findings)).toEqual(
      [],
    )
    await save({ 'routes.yaml': textOf('routes.yaml').replaceAll('  json: true\n', '') })
    expect(summary((await check('link-unmatched', 'internal-link-dead', 'image-missing')).findings)).toEqual([
      ['link-unmatched', '/openapi.json'],
    ])
  })
  it.each([
    ['given posts', '[published, { field: slug, is: in, to: [moth, zip-surgery] }]', 0],
    ['the posts of a year', '[published, { field: publishedYear, is: equal, to: 2026 }]', 0],
    ['the posts of a category', '[published, { field: category.slug, is: equal, to: textiles }]', 1],
  ])('for “take: all” over %s: %s', async (_, where, count) => {
    await save({
      'queries/chosen.yaml': `from: posts\nwhere: ${where}\ntake: all\n`,
      'templates/pages/chosen.liquid': '{% for one in posts %}{{ one.title }}{% endfor %}',
      'routes.yaml': routeBefore(
        'home',
        '- name: chosen\n  path: /chosen\n  data: { posts: chosen }\n  template: pages/chosen',
      ),
    })
    expect((await check('listing-unbounded')).findings).toHaveLength(count)
  })
})

describe('attributes of a template', () => {
  it('are read with their lines; what a template prints is left out', () => {
    const text =
      '<p>\n<a href="/a?x=1&amp;y=2">a</a>\n<a href="{{ b }}">b</a><a href="/{{ c }}">c</a>\n<A HREF=\'/d\'>d</A>'
    expect(
      attributesIn(text, 'href').map(({ value, index }) => [value, text.slice(0, index).split('\n').length]),
    ).toEqual([
      ['/a?x=1&y=2', 2],
      ['/d', 4],
    ])
    expect(
      attributesIn('<img src="/a.png"><script src="/b.js"></script><img src="//c/d.png">', 'src', 'img'),
    ).toMatchObject([{ value: '/a.png' }])
  })
})

describe('a fix', () => {
  it('is offered if it removes the finding, and nothing is saved by trying it', async () => {
    await save({ 'queries/all-posts.yaml': withoutCondition('queries/all-posts.yaml', 'published') })
    const before = await loadDocuments(test.database)
    const finding = (await check()).findings.find((one) => one.rule === 'draft-listed')
    if (!finding) throw new Error('not found')
    const { answer } = await fixesOf(finding)
    expect(answer.offered.map((one) => one.label)).toEqual(['Add “published” to the query'])
    expect(await loadDocuments(test.database)).toEqual(before)
    expect((await test.api('POST', '/api/changes', { steps: answer.offered[0]?.steps })).status).toBe(200)
    expect((await check()).findings).toEqual([])
  })
  it('is not offered if it would cause another finding, and says which', async () => {
    // Moving the route first hides a post from readers; deleting it leaves its query unused.
    await save({
      'queries/only-here.yaml': 'from: posts\nwhere: [published]\ntake: first 2\n',
      'templates/pages/shelf.liquid':
        '{% layout "layouts/base" %}{% block title %}Shelf · {% endblock %}{% block main %}<main id="content"><h1>Shelf</h1>{% for one in shelf %}{{ one.title }}{% endfor %}</main>{% endblock %}',
      'routes.yaml': `${textOf('routes.yaml')}\n- name: shelf\n  path: /posts/moth\n  data: { shelf: only-here }\n  template: pages/shelf\n`,
    })
    const finding = (await check()).findings.find((one) => one.rule === 'route-never-reached')
    if (!finding) throw new Error('not found')
    const { answer } = await fixesOf(finding)
    expect(answer.offered).toEqual([])
    expect(answer.rejected).toEqual([
      {
        label: 'Move above route “post”',
        reason: 'It would cause another finding: Readers cannot see “Moth”.',
      },
      {
        label: 'Delete the route',
        reason: expect.stringMatching(/another finding: Nothing uses query “only-here”/) as string,
      },
    ])
  })
  it('that changes content is tried in a transaction that is rolled back', async () => {
    await test.database.query("INSERT INTO category (name, slug, position) VALUES ('Kites', 'kites', 99)")
    const finding = (await check()).findings.find((one) => one.rule === 'category-empty')
    const { answer } = await fixesOf(finding ?? { rule: '', subject: '' })
    expect(answer.offered.map((one) => one.label)).toEqual(['Delete “Kites”'])
    const rows = await test.database.query<object[]>("SELECT FROM category WHERE slug = 'kites'")
    expect(rows).toHaveLength(1)
    await test.database.query("DELETE FROM category WHERE slug = 'kites'")
  })
  it('of a finding that is gone is not found', async () => {
    expect(await fixesOf({ rule: 'query-unused', subject: 'nothing' })).toMatchObject({
      status: 404,
      answer: { code: 'finding-unknown' },
    })
  })
})
