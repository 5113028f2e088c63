// The rules on queries: a faulty definition triggers each, with a witness that is requested here and a fix that works.
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Finding } from '../../core/checks/finding.ts'
import type { Facts } from '../../core/checks/facts.ts'
import { orderNotTotal } from '../../core/checks/rules/order-not-total.ts'
import { queryPerRow } from '../../core/checks/rules/query-per-row.ts'
import { readMeaning } from '../../core/queries/meaning.ts'
import { DocumentEntity } from '../store/entities/definition.ts'
import { compileTies } from '../store/statements/compile-places.ts'
import { storeResult } from '../growth/stored.ts'
import type { GrowthResult } from '../../contract/growth-result.ts'
import { applySteps, saveTexts } from '../testing/edits.ts'
import { runRulesOf } from '../testing/checks.ts'
import { testWorkbench, type TestWorkbench } from '../testing/workbench.ts'

let test: TestWorkbench
beforeAll(async () => (test = await testWorkbench()))
afterAll(() => test.close())

const text = async (path: string) =>
  (await test.database.getRepository(DocumentEntity).findOneByOrFail({ path })).text
async function write(changes: Record<string, string | null>) {
  const saved = await saveTexts(test.blog, changes)
  if (!saved.ok) throw new Error(JSON.stringify(saved))
}
const find = async (rule: string): Promise<Finding[]> => {
  const { findings } = await runRulesOf(test.blog, [rule])
  return findings
}
async function apply(finding: Finding | undefined) {
  const applied = await applySteps(test.blog, finding?.fixes[0]?.steps ?? [])
  if (!applied.ok) throw new Error(JSON.stringify(applied))
}
/** Changes documents, checks them, and restores them. */
async function withChanged(changes: Record<string, string>, work: () => Promise<void>) {
  const before: Record<string, string> = {}
  for (const path of Object.keys(changes)) {
    const row = await test.database.getRepository(DocumentEntity).findOneBy({ path })
    if (row) before[path] = row.text
  }
  await write(changes)
  try {
    await work()
  } finally {
    await write(before)
  }
}
const route = async (added: string) => ({
  'routes.yaml': (await text('routes.yaml')).replace('- name: home\n', `${added}\n- name: home\n`),
})

describe('the demo', () => {
  it('has no findings, and what is proven is counted', async () => {
    const { findings, proven } = await test.checks.run()
    expect(findings).toEqual([])
    expect(proven.map((one) => [one.rule, one.count])).toEqual(
      expect.arrayContaining([
        ['query-unused', '19 queries'],
        ['listing-unbounded', '11 listings'],
        ['order-not-total', '8 paged queries'],
        ['one-without-not-found', '7 of 8 routes with parameters'],
        ['page-parameter-shared', '9 listings with pages'],
        ['query-per-row', expect.stringMatching(/^\d+ of \d+ pages$/)],
      ]),
    )
  })
})

describe('every check', () => {
  it.each(['title', '-slug', '-commentCount', 'publishedAt', 'category.name', '-author.name'])(
    'runs with “order: [%s]” over joined rows whose columns have the same names',
    async (order) => {
      const changes = {
        'queries/all-posts.yaml': (await text('queries/all-posts.yaml')).replace(
          /order: .*/,
          `order: [${order}]`,
        ),
      }
      await withChanged(changes, async () => {
        const { runs } = await test.checks.run()
        expect(runs.filter((one) => one.failed !== null)).toEqual([])
      })
    },
  )
})

describe('query-unused', () => {
  it('names the query, fixed by deleting it', async () => {
    await withChanged(
      {
        'queries/latest-posts.yaml': await text('queries/latest-posts.yaml'),
        'queries/old.yaml': 'from: tags\ntake: all\n',
      },
      async () => {
        expect(await find('query-unused')).toMatchObject([
          { subject: 'old', place: { document: 'queries/old.yaml' } },
        ])
        await apply((await find('query-unused'))[0])
        expect(await find('query-unused')).toEqual([])
      },
    )
    await expect(text('queries/old.yaml')).rejects.toThrow()
  })
})

describe('listing-unbounded', () => {
  it('counts the rows now and with 100,000 posts, fixed by a limit with the same template', async () => {
    const path = 'queries/latest-posts.yaml'
    await withChanged({ [path]: (await text(path)).replace('take: first 5', 'take: all') }, async () => {
      const [finding] = await find('listing-unbounded')
      expect(finding).toMatchObject({
        subject: 'latest-posts',
        detail: expect.stringMatching(/\b41 of 48\b.*\b85,417\b/) as string,
        witness: { address: '/', actual: expect.stringContaining('85,417') as string },
        fixes: [{}],
      })
      await apply(finding)
      expect(await text(path)).toContain('take: first 50')
      expect(await find('listing-unbounded')).toEqual([])
      expect((await test.read('/')).status).toBe(200)
    })
  })
  it('finds comments of all posts, but not those of one post', async () => {
    const path = 'queries/latest-comments.yaml'
    await withChanged({ [path]: (await text(path)).replace('take: first 3', 'take: all') }, async () => {
      expect((await find('listing-unbounded')).map((one) => one.subject)).toEqual(['latest-comments'])
    })
  })
})

describe('comments-unbounded', () => {
  it('finds a page with all comments of a post, fixed by a limit', async () => {
    const path = 'queries/comments-of-post.yaml'
    const all = (await text(path)).replace('take: pages', 'take: all').replace(/^pages: .*\n/m, '')
    const partial = 'templates/partials/comments.liquid'
    const template = (await text(partial)).replaceAll('comments.items', 'comments')
    await withChanged({ [path]: all, [partial]: template }, async () => {
      const [finding] = await find('comments-unbounded')
      expect(finding).toMatchObject({ subject: 'comments-of-post', fixes: [{}] })
      await apply(finding)
      expect(await text(path)).toContain('take: first 100')
      expect(await find('comments-unbounded')).toEqual([])
      expect((await test.read('/posts/moth')).text).toContain('id="comment-')
    })
  })
})

describe('one-without-not-found', () => {
  it('requests an address without a row, which answers 404 after the fix', async () => {
    const path = 'queries/tag-by-slug.yaml'
    await withChanged({ [path]: (await text(path)).replace('empty: not-found\n', '') }, async () => {
      const [finding] = await find('one-without-not-found')
      const address = finding?.witness.address ?? ''
      expect(finding).toMatchObject({
        subject: 'tag',
        witness: { actual: '200', expected: '404' },
        place: { document: path },
      })
      expect((await test.read(address)).status).toBe(200)
      await apply(finding)
      expect((await test.read(address)).status).toBe(404)
      expect(await find('one-without-not-found')).toEqual([])
    })
  })
})

describe('page-parameter-shared', () => {
  it('finds a parameter that changes two listings', async () => {
    const added =
      '- name: both\n  path: /both\n  query: { page: integer }\n  data: { posts: all-posts, of: posts-by-number }\n  template: pages/listing'
    const other =
      'from: posts\nwhere: [published, { field: wordCount, is: more, to: ":page", when: given }]\norder: [wordCount]\ntake: first 3\n'
    const listing = await text('templates/pages/listing.liquid')
    await withChanged(
      {
        ...(await route(added)),
        'queries/posts-by-number.yaml': other,
        'templates/pages/listing.liquid': `${listing}{% for one in of %}{{ one.title }}{% endfor %}`,
      },
      async () => {
        const [finding] = await find('page-parameter-shared')
        expect(finding).toMatchObject({ subject: 'both page', witness: { address: '/both?page=2' } })
        expect(finding?.detail).toContain('all-posts')
      },
    )
    await test.database.query("DELETE FROM document WHERE path = 'queries/posts-by-number.yaml'")
  })
  it('two listings with the same page parameter cannot be saved', async () => {
    const added =
      '- name: both\n  path: /both\n  data: { posts: all-posts, of: search-posts }\n  query: { q: text }\n  template: pages/listing'
    await expect(write(await route(added))).rejects.toThrow(/data-page-parameter-shared/)
  })
})

describe('query-per-row', () => {
  it.each([
    [
      'finds a page that runs a query twice with the same parameters',
      ['bicycles', 'textiles', 'textiles'],
      1,
    ],
    [
      'allows a page to run a query three times with different parameters',
      ['bicycles', 'textiles', 'woodwork'],
      0,
    ],
  ])('%s', async (_, slugs, count) => {
    const data = ['bicycles', 'textiles', 'woodwork']
      .map((name, at) => `    ${name}: { query: some-of, with: { category: '"${slugs[at] ?? ''}"' } }`)
      .join('\n')
    const added = `- name: three\n  path: /three\n  data:\n${data}\n  template: pages/three`
    await withChanged(
      {
        ...(await route(added)),
        'queries/some-of.yaml':
          'from: posts\nwhere: [published, { field: category.slug, is: equal, to: ":category" }]\ntake: first 3\n',
        'templates/pages/three.liquid':
          '{% for one in bicycles %}{{ one.title }}{% endfor %}{{ textiles.size }}{{ woodwork.size }}',
      },
      async () => {
        const findings = await find('query-per-row')
        expect(findings).toHaveLength(count)
        for (const one of findings)
          expect(one).toMatchObject({
            subject: 'three some-of',
            title: expect.stringMatching(/\/three.*2.*some-of/) as string,
            detail: expect.stringContaining('textiles, woodwork') as string,
          })
      },
    )
    await test.database.query(
      "DELETE FROM document WHERE path IN ('queries/some-of.yaml', 'templates/pages/three.liquid')",
    )
  })
  it('finds statements that grow with the rows', async () => {
    const facts = {
      definition: { routes: [{ route: { name: 'list', path: '/list' } }], routePlaces: new Map() },
      addresses: () => Promise.resolve({ known: [{ route: 'list', path: '/list', title: null }], total: 1 }),
      queriesAt: () =>
        Promise.resolve([{ data: 'posts', query: 'all', statements: 7, rows: 6, lists: 0, shown: [] }]),
    } as unknown as Facts
    expect((await queryPerRow.run(facts)).findings).toMatchObject([
      { subject: 'list all', title: expect.stringMatching(/\/list.*7.*all/) as string },
    ])
  })
})

describe('order-not-total', () => {
  it('finds two stored rows that tie at the end of a page, unless the order has the id', async () => {
    const read = readMeaning({
      from: 'posts',
      where: ['published'],
      order: ['commentsOpen'],
      take: 'pages',
      pages: { size: 6 },
    })
    if (!read.ok) throw new Error('no meaning')
    const tie = async (order: typeof read.meaning.order) => {
      const { sql } = compileTies(test.database, { ...read.meaning, order }, 6, test.blog.site.definition)
      return (await test.database.query<{ first: string; second: string; page: number }[]>(sql))[0]
    }
    expect(await tie(read.meaning.order)).toBe(undefined)
    const found = await tie(read.meaning.order.filter((one) => one.field !== 'id'))
    expect(found?.page).toBe(1)
    const same = await test.database.query<{ open: boolean }[]>(
      'SELECT DISTINCT comments_open AS open FROM post WHERE title = ANY ($1)',
      [[found?.first, found?.second]],
    )
    expect(same).toHaveLength(1)
  })
  it('names the rows and the page', async () => {
    const facts = {
      definition: {
        queries: new Map([
          ['list', { take: { kind: 'pages' }, order: [{ field: 'title', descending: true }] }],
        ]),
      },
      tieAtPageEnd: () => Promise.resolve({ first: 'A', second: 'B', page: 2 }),
    } as unknown as Facts
    expect((await orderNotTotal.run(facts)).findings).toMatchObject([
      {
        subject: 'list',
        detail: expect.stringMatching(/“A”.*“B”.*-title/) as string,
        witness: { text: expect.stringMatching(/“A”.*page 2.*“B”.*page 3/) as string },
      },
    ])
  })
})

describe('no-index-for-order', () => {
  const result = (size: number): GrowthResult => ({
    query: 'all-posts',
    sentence: '',
    parameters: {},
    sizes: [1_000, size],
    totals: [900, 90_000],
    measured: [],
    tried: [
      { name: 'posts-word-count-id', on: 'posts', keys: ['-wordCount', '-id'], isUsed: true, bytes: 1 },
    ],
    advised: { name: 'posts-word-count-id', size, before: 120, after: 1.25 },
    serving: [],
    readsAll: [],
    notes: [],
    machine: '',
    milliseconds: 1,
  })
  it('uses measurements with 100,000 posts, fixed by adding the index', async () => {
    const query = test.blog.site.queries.get('all-posts')
    if (!query) throw new Error('no query')
    await storeResult(test.blog, query.meaning, result(10_000))
    expect(await find('no-index-for-order')).toEqual([])
    await storeResult(test.blog, query.meaning, result(100_000))
    const [finding] = await find('no-index-for-order')
    expect(finding).toMatchObject({
      subject: 'all-posts',
      detail: expect.stringContaining('-wordCount, -id') as string,
      witness: { address: '/posts', actual: '120 ms', expected: '1.3 ms' },
    })
    await apply(finding)
    expect(await text('indexes.yaml')).toBe(
      '- { name: posts-word-count-id, on: posts, keys: [-wordCount, -id] }\n',
    )
    const { findings, proven } = await runRulesOf(test.blog, ['no-index-for-order'])
    expect([findings, proven[0]?.count]).toEqual([[], '1 of 19 queries'])
  })
})

describe('conditions', () => {
  const LISTING = 'queries/all-posts.yaml'
  it('that never change the result are named, and can be removed', async () => {
    const stored = await text(LISTING)
    const where = 'where: [published, { field: title, is: set }, { field: wordCount, is: at-least, to: 0 }]'
    await withChanged({ [LISTING]: stored.replace('where: [published]', where) }, async () => {
      const found = await find('condition-idle')
      expect(found.map((one) => [one.subject, one.cause])).toEqual([
        ['all-posts title is set', 'Every row meets it.'],
        ['all-posts wordCount is at least 0', 'Every row meets it.'],
      ])
      const address = found[0]?.witness.address ?? ''
      const before = (await test.read(address)).text
      await apply(found[0])
      await apply((await find('condition-idle'))[0])
      expect(await find('condition-idle')).toEqual([])
      expect((await test.read(address)).text).toBe(before)
    })
  })
  it('that exclude each other are named', async () => {
    const stored = await text(LISTING)
    const where = 'where: [published, { field: slug, is: equal, to: a }, { field: slug, is: equal, to: b }]'
    await withChanged({ [LISTING]: stored.replace('where: [published]', where) }, async () => {
      const [found] = await find('condition-idle')
      expect(found).toMatchObject({
        title: 'Query “all-posts” can never return a row',
        place: { document: LISTING },
      })
    })
  })
})
