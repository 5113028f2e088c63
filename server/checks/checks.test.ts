// The demo has no findings. A faulty definition triggers each rule, with a witness that holds and a fix that works.
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Finding } from '../../core/checks/finding.ts'
import { RULES } from '../../core/checks/rules/all.ts'
import { loadDocuments } from '../publish/documents.ts'
import { answer } from '../reader/answer.ts'
import { internalRequest } from '../reader/request.ts'
import { applySteps, renameSlug, saveTexts } from '../testing/edits.ts'
import { testBlog, type TestBlog } from '../testing/database.ts'
import { runRulesOf, PAGE_RULES, PLANTED_RULES } from '../testing/checks.ts'
import { Checks } from './service.ts'

let test: TestBlog
let checks: Checks
beforeAll(async () => {
  test = await testBlog()
  checks = new Checks(test.blog)
})
afterAll(async () => {
  await checks.stop()
  await test.close()
})

const get = (target: string) => answer(test.blog, internalRequest(target))
async function write(changes: Record<string, string | null>) {
  // Faults are planted, so saves insist.
  const result = await saveTexts(test.blog, changes, { insist: true })
  if (!result.ok) throw new Error(JSON.stringify(result))
}
const text = async (path: string) => (await loadDocuments(test.database)).get(path) ?? ''
const found = async (rule: string): Promise<Finding[]> => {
  const { findings } = await runRulesOf(test.blog, [rule])
  return findings
}
/** Returns the text that a fix saves. */
const savedText = (finding: Finding | undefined): string | undefined => {
  const step = finding?.fixes[0]?.steps.find((one) => one.do === 'save-document')
  return step?.do === 'save-document' ? step.text : undefined
}
/** Applies a fix, as the workbench does. */
async function apply(finding: Finding | undefined, which = 0) {
  const fix = finding?.fixes[which]
  if (!fix) throw new Error(`There is no fix for ${finding?.title ?? 'nothing'}.`)
  const applied = await applySteps(test.blog, fix.steps)
  if (!applied.ok) throw new Error(JSON.stringify(applied))
}
/** Changes documents, checks what a rule finds, and restores the documents. */
async function withChanges(changes: Record<string, (text: string) => string>, work: () => Promise<void>) {
  const before = await loadDocuments(test.database)
  await write(
    Object.fromEntries(
      await Promise.all(
        Object.entries(changes).map(async ([path, change]) => [path, change(await text(path))]),
      ),
    ),
  )
  try {
    await work()
  } finally {
    const now = await loadDocuments(test.database)
    const changed = [...before].filter(([path, old]) => now.get(path) !== old)
    if (changed.length > 0) await write(Object.fromEntries(changed))
  }
}
const withRoute = (route: string) => (routes: string) => `${route}\n${routes}`

describe('the demo', () => {
  it('has no findings, and what is proven is counted', async () => {
    const state = await checks.run()
    expect(state.findings).toEqual([])
    expect(state.runs.map((one) => [one.rule, one.failed])).toEqual(RULES.map((rule) => [rule.id, null]))
    // Those have tests of their own.
    const others = new Set(
      RULES.filter(
        ({ id, area }) =>
          ['queries', 'cache'].includes(area) ||
          /^(template|markup)-/.test(id) ||
          [...PAGE_RULES, ...PLANTED_RULES].includes(id),
      ).map((rule) => rule.id),
    )
    for (const id of ['draft-reachable', 'page-fails']) others.delete(id)
    expect(state.proven.filter((one) => !others.has(one.rule))).toMatchObject([
      {
        rule: 'page-fails',
        count: expect.stringMatching(/^\d+ (of \d+ )?addresses$/) as string,
      },
      { rule: 'draft-reachable', count: '14 addresses' },
      { rule: 'route-never-reached', count: '16 routes' },
      { rule: 'slug-hidden-by-route', count: '124 addresses of rows' },
      { rule: 'address-build-fails' },
      { rule: 'route-parameter-unused', count: '10 parameters' },
      { rule: 'routes-overlap', count: '120 pairs' },
      { rule: 'comment-unescaped', count: expect.stringMatching(/^\d+ responses$/) as string },
      { rule: 'comments-shown-unapproved' },
      { rule: 'comment-form-unanswered', count: '1 comment form' },
      { rule: 'comment-action-without-page', count: '1 comment form' },
      { rule: 'comments-of-another-post' },
      { rule: 'no-rate-limit', count: '1 comment form' },
      { rule: 'comments-unbounded', count: '2 listings of comments' },
      { rule: 'markdown-as-typed' },
      { rule: 'image-missing', count: '1 image' },
      { rule: 'category-empty', count: '7 categories' },
      { rule: 'slug-not-canonical', count: '83 slugs' },
    ])
    expect(state.running).toBeNull()
  })
})

describe('each rule', () => {
  it('page-fails: posts, later pages, the not-found page and forms, one finding for each cause', async () => {
    const raw = '{{ blog.title | raw }}'
    await withChanges(
      {
        'templates/partials/card.liquid': (card) => `${card}\n${raw}`,
        'templates/pages/not-found.liquid': (page) =>
          page.replace(/{% block (\w+) %}/, (block) => block + raw),
        'templates/pages/post.liquid': (page) =>
          page.replace(/{% block (\w+) %}/, (block) => `${block}{% if form.errors.name %}${raw}{% endif %}`),
      },
      async () => {
        const findings = await found('page-fails')
        expect(
          findings.map(({ place, witness }) => [
            place?.document,
            witness.address,
            witness.actual,
            witness.expected,
          ]),
        ).toEqual([
          ['templates/partials/card.liquid', '/', '500', '200'],
          ['templates/pages/not-found.liquid', '/no-such-address-as-this', '500', '404'],
          ['templates/pages/post.liquid', null, '500', '422'],
        ])
        expect(findings[2]?.witness.text).toMatch(
          /^A form with invalid input, sent to \/posts\/[\w-]+\/comments: /,
        )
        expect(findings[2]?.title).toMatch(/^POST \/posts\/[\w-]+\/comments answers 500$/)
        expect(findings[0]?.others).toContain('/posts?page=2')
        expect((await get('/posts?page=2')).status).toBe(500)
      },
    )
  })

  const withoutForm = (template: string) =>
    template.replaceAll("{{ 'add-comment' | url: slug: post.slug }}", '')
  it('draft-reachable: the address of an existing draft, fixed by adding “published”', async () => {
    await withChanges(
      {
        'queries/post-by-slug.yaml': (query) => query.replace(/^\s*- published\n/m, ''),
        'routes.yaml': (routes) => routes.replace(/- name: add-comment[\s\S]*?(?=- name: category)/, ''),
        'templates/partials/comment.liquid': withoutForm,
        'templates/partials/comment-form.liquid': withoutForm,
      },
      async () => {
        const [finding] = await found('draft-reachable')
        expect(finding?.others).toHaveLength(13)
        expect((await get(finding?.witness.address ?? '')).status).toBe(200)
        expect(savedText(finding)).toBe(
          (await text('queries/post-by-slug.yaml')).replace('where:\n', 'where:\n  - published\n'),
        )
        await apply(finding)
        expect((await get(finding?.witness.address ?? '')).status).toBe(404)
        expect(await found('draft-reachable')).toEqual([])
      },
    )
  })

  it('route-never-reached: a literal path after a pattern that matches it, fixed by moving it', async () => {
    const route =
      '- name: shelf\n  path: /posts/shelf\n  template: pages/not-found\n  data: { latest: latest-posts }\n'
    await withChanges({ 'routes.yaml': (routes) => `${routes}\n${route}` }, async () => {
      const [finding] = await found('route-never-reached')
      expect(finding).toMatchObject({
        subject: 'shelf',
        detail: expect.stringContaining('“post”') as string,
        witness: { address: '/posts/shelf', actual: '404', expected: 'route “shelf”' },
        fixes: [{}, {}],
      })
      await apply(finding)
      expect((await get('/posts/shelf')).route).toBe('shelf')
      expect(await found('route-never-reached')).toEqual([])
    })
  })
  it('route-never-reached: a pattern that no canonical address has', async () => {
    await withChanges(
      {
        'routes.yaml': withRoute(
          '- name: shop\n  path: /Shop/\n  template: pages/home\n  data: { latest: latest-posts, categories: category-counts, recentComments: latest-comments }\n',
        ),
      },
      async () => {
        const [finding] = await found('route-never-reached')
        expect(savedText(finding)).toContain('path: /shop\n')
        await apply(finding)
        expect((await get('/shop')).status).toBe(200)
      },
    )
  })

  it('slug-hidden-by-route: a post at the address of an earlier route, fixed by another slug', async () => {
    await withChanges(
      {
        'routes.yaml': withRoute(
          '- name: moth-club\n  path: /posts/moth\n  template: pages/not-found\n  data: { latest: latest-posts }\n',
        ),
      },
      async () => {
        const [finding] = await found('slug-hidden-by-route')
        expect(finding).toMatchObject({ subject: 'moth-club', witness: { address: '/posts/moth' } })
        await apply(finding)
        expect((await get('/posts/moth-2')).body).toContain('<h1>Moth</h1>')
        expect(await found('slug-hidden-by-route')).toEqual([])
        await renameSlug(test.blog, 'post', 'moth-2', 'moth')
        await test.database.query('DELETE FROM former_slug')
      },
    )
  })

  it('redirect-loop: the loop itself', async () => {
    const routes =
      '- name: here\n  path: /here/:x\n  redirect: { to: /there/:x }\n- name: there\n  path: /there/:y\n  redirect: { to: /here/:y, status: 302 }\n'
    await withChanges({ 'routes.yaml': withRoute(routes) }, async () => {
      const findings = await found('redirect-loop')
      expect(findings).toHaveLength(1)
      expect(findings[0]?.detail).toMatch(/^\/here\/(\w+) → \/there\/\1 → \/here\/\1\.$/)
      await apply(findings[0])
      expect(await found('redirect-loop')).toEqual([])
    })
  })

  it('address-build-fails: the template line, and a page that shows it', async () => {
    await withChanges(
      {
        'templates/partials/card.liquid': (card) =>
          card.replace("'post' | url: slug: post.slug", "'post' | url: slug: post.title"),
      },
      async () => {
        const [finding] = await found('address-build-fails')
        expect(finding?.place).toEqual({ document: 'templates/partials/card.liquid', line: 3 })
        expect((await get(finding?.witness.address ?? '')).status).toBe(500)
        expect(finding?.witness.actual).toBe('500')
      },
    )
  })

  it('link-unmatched and internal-link-dead: in a template and in a post, each with its place', async () => {
    await test.database.query(
      `UPDATE post SET html = html || '<p><a href="/posts/zip-surgry">zips</a></p>', body = body || E'\n\n[zips](/posts/zip-surgry)' WHERE slug = 'moth'`,
    )
    await withChanges(
      {
        'templates/layouts/base.liquid': (layout) =>
          layout.replace(
            '<footer class="foot">',
            '<footer class="foot"><a href="/abuot">About</a> <a href="/posts">All</a>',
          ),
      },
      async () => {
        const summary = (findings: readonly Finding[]) =>
          findings.map((one) => [one.subject, one.place?.document])
        const findings = await found('link-unmatched')
        expect(summary(findings)).toEqual([['/abuot', 'templates/layouts/base.liquid']])
        // A link of a text that a route matches without finding a row is a finding of the content.
        const dead = await found('internal-link-dead')
        expect(summary(dead)).toEqual([['/posts/zip-surgry', 'content/posts/moth.md']])
        expect(savedText(dead[0])).toContain('[zips](/posts/zip-surgery)')
        await apply(findings[0])
        expect(await found('link-unmatched')).toEqual([])
      },
    )
    await test.database.query(
      `UPDATE post SET html = replace(html, '<p><a href="/posts/zip-surgry">zips</a></p>', ''), body = replace(body, E'\n\n[zips](/posts/zip-surgry)', '') WHERE slug = 'moth'`,
    )
  })

  it('slug-changed-no-redirect: addresses that answer 404, fixed by one redirect', async () => {
    for (let times = 0; times < 3; times++) test.blog.notFound.add('/post/zip-surgery')
    test.blog.notFound.add('/post/moth')
    test.blog.notFound.add('/wp-login.php')
    const [finding] = await found('slug-changed-no-redirect')
    expect(finding).toMatchObject({
      witness: { address: '/post/zip-surgery', actual: '404', expected: '301' },
      others: ['/post/moth'],
    })
    const before = await text('routes.yaml')
    await apply(finding)
    expect((await get('/post/moth')).headers['location']).toBe('/posts/moth')
    expect(await found('slug-changed-no-redirect')).toEqual([])
    await write({ 'routes.yaml': before })
    await test.database.query('DELETE FROM not_found_address')
  })
  it('slug-changed-no-redirect: a former slug that another route answers', async () => {
    await renameSlug(test.blog, 'post', 'moth', 'moths')
    expect((await runRulesOf(test.blog, ['slug-changed-no-redirect'])).proven[0]?.count).toBe('1 slug')
    await withChanges(
      {
        'routes.yaml': withRoute(
          '- name: taken\n  path: /posts/:x(m[a-z]*)\n  template: pages/not-found\n  data: { latest: latest-posts, page: { query: page-by-path, with: { page: x } } }\n',
        ).bind(null),
        'queries/page-by-path.yaml': (query) => query.replace('next-route', 'not-found'),
      },
      async () => {
        const findings = await found('slug-changed-no-redirect')
        expect(findings[0]).toMatchObject({
          subject: '/posts/moth',
          witness: { actual: '404', expected: '301' },
        })
      },
    )
    await renameSlug(test.blog, 'post', 'moths', 'moth')
    await test.database.query('DELETE FROM former_slug')
  })

  it('route-parameter-missing: the address without it', async () => {
    await withChanges(
      {
        'routes.yaml': (routes) => routes.replace('path: /category/:category', 'path: /category/:category?'),
      },
      async () => {
        const [finding] = await found('route-parameter-missing')
        expect(finding).toMatchObject({
          subject: 'category category',
          witness: { address: '/category', actual: '404' },
        })
        await apply(finding)
        expect(await text('routes.yaml')).toContain('path: /category/:category\n')
      },
    )
  })

  it('route-parameter-unused: two addresses of the same page', async () => {
    await withChanges(
      {
        'routes.yaml': withRoute(
          '- name: letter\n  path: /letter/:number\n  params: { number: integer }\n  data: { latest: latest-posts }\n  template: pages/not-found\n',
        ),
      },
      async () => {
        const [finding] = await found('route-parameter-unused')
        expect(finding).toMatchObject({
          subject: 'letter number',
          witness: { address: '/letter/2', actual: '200' },
          others: ['/letter/1'],
        })
      },
    )
  })

  it('routes-overlap: an address that two routes match', async () => {
    await withChanges(
      {
        'routes.yaml': withRoute(
          '- name: recent\n  path: /:section/recent\n  data: { latest: latest-posts, page: { query: page-by-path, with: { page: section } } }\n  template: pages/not-found\n',
        ),
        'queries/page-by-path.yaml': (query) => query.replace('next-route', 'not-found'),
      },
      async () => {
        const findings = await found('routes-overlap')
        expect(findings.map((one) => one.subject)).toEqual([
          'recent post',
          'recent category',
          'recent tag',
          'recent author',
        ])
        expect(findings[0]).toMatchObject({
          affects: 'possibly',
          witness: { address: '/posts/recent' },
          fixes: [{}],
        })
      },
    )
  })
})

describe('the service', () => {
  it('runs after a save in the background, and aborts a run for a newer one', async () => {
    checks.follow()
    for (let attempt = 0; attempt < 600 && checks.state.finishedAt === null; attempt++)
      await new Promise((done) => setTimeout(done, 50))
    const before = checks.state.finishedAt
    await write({ 'blog.yaml': await text('blog.yaml') })
    for (let attempt = 0; attempt < 600 && checks.state.finishedAt === before; attempt++)
      await new Promise((done) => setTimeout(done, 50))
    expect(checks.state.finishedAt).not.toBe(before)
    const states = await Promise.all([checks.run(), checks.run(), checks.run()])
    // All three return the complete result of the latest run.
    for (const state of states) expect(state).toBe(checks.state)
    expect(checks.state).toMatchObject({ running: null, findings: [] })
    expect(checks.state.runs.length).toBe(RULES.length)
  })
  it('claims nothing after a run that could not be completed', async () => {
    const { database, notFound } = test.blog
    const options = { ...database.options, url: 'postgres://nobody@127.0.0.1:1/none' }
    const unreachable = Object.create(database, { options: { value: options } }) as typeof database
    const failing = new Checks({
      database: unreachable,
      notFound,
      clock: () => new Date(),
      cursorKey: test.blog.cursorKey,
      log: test.blog.log,
      origins: [],
      commentService: null,
      watchChanges: () => () => undefined,
    })
    const { findings, proven, runs, running } = await failing.run()
    expect([findings, proven, running]).toEqual([[], [], null])
    expect(runs.map((one) => [one.rule, one.failed])).toEqual(
      RULES.map(({ id }) => [id, expect.stringContaining('ECONNREFUSED')]),
    )
    await failing.stop()
  })
  it('stores dismissals with their reasons', async () => {
    await checks.dismiss('routes-overlap', 'a b', 'both are the same page for now')
    await checks.dismiss('routes-overlap', 'a b', 'decided')
    expect([...(await checks.dismissed())].map(([key, { reason }]) => [key, reason])).toEqual([
      ['routes-overlap a b', 'decided'],
    ])
    await checks.reopen('routes-overlap', 'a b')
    expect((await checks.dismissed()).size).toBe(0)
  })
})
