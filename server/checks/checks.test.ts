// The demo is clean; a definition faulty on purpose triggers each rule, with a witness that holds and a mend that mends.
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Finding } from '../../core/checks/finding.ts'
import { RULES } from '../../core/checks/rules/all.ts'
import { DEFAULT_SLUG_RULES } from '../../core/slugs/slug.ts'
import { saveDocuments } from '../author/documents/documents.ts'
import { loadDocuments } from '../publish/documents.ts'
import { changeSlug } from '../author/slugs/slugs.ts'
import { DocumentEntity } from '../store/entities/definition.ts'
import { answer } from '../reader/answer.ts'
import { testBlog, type TestBlog } from '../testing/database.ts'
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

const get = (target: string) =>
  answer(test.blog, {
    id: 'checks',
    method: 'GET',
    target,
    as: 'reader',
    header: () => undefined,
    form: () => Promise.resolve({ ok: false, status: 415, reason: '' }),
  })
async function write(changes: Record<string, string | null>) {
  const rows = await test.database.getRepository(DocumentEntity).find()
  const result = await saveDocuments(
    test.blog,
    Object.entries(changes).map(([path, text]) => ({
      path,
      text,
      version: rows.find((row) => row.path === path)?.version ?? 0,
    })),
  )
  if (result.outcome !== 'saved') throw new Error(JSON.stringify(result))
}
const text = async (path: string) => (await loadDocuments(test.database)).get(path) ?? ''
const found = async (rule: string): Promise<Finding[]> => {
  const { findings, runs } = await checks.run()
  expect(runs.filter((one) => one.failed !== null)).toEqual([])
  return findings.filter((one) => one.rule === rule)
}
/** Applies a mend, as the workbench does. */
async function apply(finding: Finding | undefined, mend = 0) {
  const chosen = finding?.mends[mend]
  if (!chosen) throw new Error(`no mend for ${finding?.title ?? 'nothing'}`)
  if (chosen.slug) {
    const { kind, from, to } = chosen.slug
    const result = await changeSlug(test.database, DEFAULT_SLUG_RULES, kind, from, to)
    if (result.outcome === 'changed') for (const one of result.changes) test.blog.changed(one)
  }
  for (const { document, before } of chosen.changes)
    if (!document.startsWith('content/')) expect(before).toBe(await text(document))
  if (chosen.changes.length > 0)
    await write(Object.fromEntries(chosen.changes.map(({ document, text: changed }) => [document, changed])))
}
/** Changes documents, looks at what a rule finds, and puts everything back. */
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
  it('is clean, and says what is proven', async () => {
    const state = await checks.run()
    expect(state.findings).toEqual([])
    expect(state.runs.map((one) => [one.rule, one.failed])).toEqual(RULES.map((rule) => [rule.id, null]))
    const ofQueries = new Set(RULES.filter((rule) => rule.area === 'queries').map((rule) => rule.id))
    ofQueries.delete('draft-reachable')
    expect(state.proven.filter((one) => !ofQueries.has(one.rule))).toMatchObject([
      { rule: 'draft-reachable', count: '7 addresses asked' },
      { rule: 'route-never-reached', count: '11 of 11' },
      { rule: 'slug-hidden-by-route', count: '76 addresses' },
      { rule: 'address-build-fails' },
      { rule: 'route-parameter-unused', count: '8 parameters' },
      { rule: 'routes-overlap', count: '55 pairs' },
      { rule: 'published-without-date', count: '7 posts' },
      { rule: 'category-empty', count: '7 categories' },
      { rule: 'slug-not-canonical', count: '83 slugs' },
    ])
    expect(state.running).toBeNull()
  })
})

describe('each rule', () => {
  it('draft-reachable: the address of a real draft, and adding “published” closes it', async () => {
    await withChanges(
      {
        'queries/post-by-slug.yaml': (query) => query.replace(/^\s*- published\n/m, ''),
        'routes.yaml': (routes) => routes.replace(/- name: add-comment[\s\S]*?(?=- name: category)/, ''),
        'templates/partials/comments.liquid': (template) => template.replace(/<form[\s\S]*<\/form>/, ''),
      },
      async () => {
        const [finding] = await found('draft-reachable')
        expect(finding?.title).toBe('7 unpublished posts can be read by their addresses')
        expect(finding?.also).toHaveLength(6)
        expect((await get(finding?.witness.address ?? '')).status).toBe(200)
        expect(finding?.mends[0]?.changes[0]?.text).toBe(
          (await text('queries/post-by-slug.yaml')).replace('where:\n', 'where:\n  - published\n'),
        )
        await apply(finding)
        expect((await get(finding?.witness.address ?? '')).status).toBe(404)
        expect(await found('draft-reachable')).toEqual([])
      },
    )
  })

  it('route-never-reached: a literal behind its pattern, and moving it mends it', async () => {
    const route =
      '- name: shelf\n  path: /posts/shelf\n  template: pages/not-found\n  data: { latest: latest-posts }\n'
    await withChanges({ 'routes.yaml': (routes) => `${routes}\n${route}` }, async () => {
      const [finding] = await found('route-never-reached')
      expect(finding).toMatchObject({
        subject: 'shelf',
        detail: 'Every address it would answer, such as /posts/shelf, is taken by route “post”.',
        witness: { address: '/posts/shelf', got: '404', expected: 'route “shelf”' },
        mends: [{ label: 'Move it above route “post”' }, { label: 'Take it out' }],
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
        expect(finding?.mends[0]?.label).toBe('Write its path as /shop')
        await apply(finding)
        expect((await get('/shop')).status).toBe(200)
      },
    )
  })

  it('slug-hidden-by-route: a post behind a literal, and another slug shows it again', async () => {
    await withChanges(
      {
        'routes.yaml': withRoute(
          '- name: moth-club\n  path: /posts/moth\n  template: pages/not-found\n  data: { latest: latest-posts }\n',
        ),
      },
      async () => {
        const [finding] = await found('slug-hidden-by-route')
        expect(finding).toMatchObject({ title: '“Moth” cannot be seen', witness: { address: '/posts/moth' } })
        await apply(finding)
        expect((await get('/posts/moth-2')).body).toContain('<h1>Moth</h1>')
        expect(await found('slug-hidden-by-route')).toEqual([])
        await changeSlug(test.database, DEFAULT_SLUG_RULES, 'post', 'moth-2', 'moth')
        await test.database.query('DELETE FROM former_slug')
      },
    )
  })

  it('redirect-loop: the circle itself', async () => {
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
        expect(finding?.detail).toMatch(/is not lower-case letters, digits and single hyphens/)
      },
    )
  })

  it('link-unmatched: in a template and in a post, each with its place', async () => {
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
        const told = (findings: readonly Finding[]) =>
          findings.map((one) => [one.subject, one.place?.document, one.mends[0]?.label])
        const findings = await found('link-unmatched')
        expect(told(findings)).toEqual([['/abuot', 'templates/layouts/base.liquid', 'Lead it to /about']])
        // A text’s link that a route takes, and finds nothing for, is told under Content.
        const dead = await found('internal-link-dead')
        expect(told(dead)).toEqual([
          ['/posts/zip-surgry', 'content/posts/moth.md', 'Lead it to /posts/zip-surgery'],
        ])
        expect(dead[0]?.mends[0]?.changes[0]?.text).toContain('[zips](/posts/zip-surgery)')
        await apply(findings[0])
        expect(await found('link-unmatched')).toEqual([])
      },
    )
    await test.database.query(
      `UPDATE post SET html = replace(html, '<p><a href="/posts/zip-surgry">zips</a></p>', ''), body = replace(body, E'\n\n[zips](/posts/zip-surgry)', '') WHERE slug = 'moth'`,
    )
  })

  it('slug-changed-no-redirect: what is asked for in vain, and a redirect for all of it', async () => {
    for (let times = 0; times < 3; times++) test.blog.unanswered.add('/post/zip-surgery')
    test.blog.unanswered.add('/post/moth')
    test.blog.unanswered.add('/wp-login.php')
    const [finding] = await found('slug-changed-no-redirect')
    expect(finding).toMatchObject({
      title: 'Addresses under /post/ are asked for, and live under /posts/',
      witness: { address: '/post/zip-surgery', text: 'asked for 3 times', got: '404', expected: '301' },
      also: ['/post/moth'],
      mends: [{ label: 'Lead /post/:slug to /posts/:slug' }],
    })
    const before = await text('routes.yaml')
    await apply(finding)
    expect((await get('/post/moth')).headers['location']).toBe('/posts/moth')
    expect(await found('slug-changed-no-redirect')).toEqual([])
    await write({ 'routes.yaml': before })
    await test.database.query('DELETE FROM unanswered_address')
  })
  it('slug-changed-no-redirect: a former slug whose pattern moved on', async () => {
    await changeSlug(test.database, DEFAULT_SLUG_RULES, 'post', 'moth', 'moths')
    expect((await checks.run()).proven.find((one) => one.rule === 'slug-changed-no-redirect')?.count).toBe(
      '1 slugs',
    )
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
          witness: { got: '404', expected: '301' },
        })
      },
    )
    await changeSlug(test.database, DEFAULT_SLUG_RULES, 'post', 'moths', 'moth')
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
          witness: { address: '/category', got: '404' },
        })
        await apply(finding)
        expect(await text('routes.yaml')).toContain('path: /category/:category\n')
      },
    )
  })

  it('route-parameter-unused: two addresses of one page', async () => {
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
          witness: { address: '/letter/2', got: '200' },
          also: ['/letter/1'],
        })
      },
    )
  })

  it('routes-overlap: a shared address, and who wins', async () => {
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
          mends: [{ label: 'Let “post” come first' }],
        })
      },
    )
  })
})

describe('the service', () => {
  it('runs after a save, in the background, and gives up a run for a newer one', async () => {
    const before = checks.state.finishedAt
    await write({ 'blog.yaml': await text('blog.yaml') })
    for (let attempt = 0; attempt < 600 && checks.state.finishedAt === before; attempt++)
      await new Promise((done) => setTimeout(done, 50))
    expect(checks.state.finishedAt).not.toBe(before)
    const states = await Promise.all([checks.run(), checks.run(), checks.run()])
    // All three are answered by the newest run, complete.
    for (const state of states) expect(state).toBe(checks.state)
    expect(checks.state).toMatchObject({ running: null, findings: [] })
    expect(checks.state.runs.length).toBe(RULES.length)
  })
  it('remembers what was set aside, and why', async () => {
    await checks.putAside('routes-overlap', 'a b', 'both are the same page for now')
    await checks.putAside('routes-overlap', 'a b', 'decided')
    expect([...(await checks.setAside())].map(([key, { reason }]) => [key, reason])).toEqual([
      ['routes-overlap a b', 'decided'],
    ])
    await checks.takeUp('routes-overlap', 'a b')
    expect((await checks.setAside()).size).toBe(0)
  })
})
