// The rules about queries: a definition faulty on purpose triggers each, its witness is asked again here, its mend mends.
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Finding } from '../../core/checks/finding.ts'
import type { Facts } from '../../core/checks/facts.ts'
import { orderNotTotal } from '../../core/checks/rules/order-not-total.ts'
import { queryPerRow } from '../../core/checks/rules/query-per-row.ts'
import { readMeaning } from '../../core/queries/meaning.ts'
import { DocumentEntity } from '../store/entities/definition.ts'
import { compileTies } from '../store/statements/compile-places.ts'
import { keepResult } from '../growth/kept.ts'
import type { GrowthResult } from '../../contract/growth-result.ts'
import { testWorkbench, type TestWorkbench } from '../testing/workbench.ts'

let test: TestWorkbench
beforeAll(async () => (test = await testWorkbench()))
afterAll(() => test.close())

const text = async (path: string) =>
  (await test.database.getRepository(DocumentEntity).findOneByOrFail({ path })).text
async function write(changes: Record<string, string | null>) {
  const rows = await test.database.getRepository(DocumentEntity).find()
  const { status, answer } = await test.api('PUT', '/api/documents', {
    changes: Object.entries(changes).map(([path, changed]) => ({
      path,
      text: changed,
      version: rows.find((row) => row.path === path)?.version ?? 0,
    })),
  })
  if (status !== 200) throw new Error(JSON.stringify(answer))
}
const find = async (rule: string): Promise<Finding[]> => {
  const { findings, runs } = await test.checks.run()
  expect(runs.filter((one) => one.failed !== null)).toEqual([])
  return findings.filter((one) => one.rule === rule)
}
const mend = async (finding: Finding | undefined) =>
  await write(Object.fromEntries((finding?.mends[0]?.changes ?? []).map((one) => [one.document, one.text])))
/** Changes documents, looks, and puts back what was there. */
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
  it('is clean, and says what was looked at', async () => {
    const { findings, proven } = await test.checks.run()
    expect(findings).toEqual([])
    expect(proven.map((one) => [one.rule, one.count])).toEqual(
      expect.arrayContaining([
        ['query-unused', '19 of 19'],
        ['listing-unbounded', '11 listings'],
        ['order-not-total', '7 paged queries'],
        ['one-without-not-found', '5 addresses asked'],
        ['page-parameter-shared', '7 routes with pages'],
        ['query-per-row', '10 pages walked'],
      ]),
    )
  })
})

describe('query-unused', () => {
  it('names the query, and the mend deletes it', async () => {
    await withChanged(
      {
        'queries/latest-posts.yaml': await text('queries/latest-posts.yaml'),
        'queries/old.yaml': 'from: tags\ntake: all\n',
      },
      async () => {
        expect(await find('query-unused')).toMatchObject([
          { subject: 'old', place: { document: 'queries/old.yaml' } },
        ])
        await mend((await find('query-unused'))[0])
        expect(await find('query-unused')).toEqual([])
      },
    )
    await expect(text('queries/old.yaml')).rejects.toThrow()
  })
})

describe('listing-unbounded', () => {
  it('all posts: how many today, and how many of 100,000; the mend bounds it with the same template', async () => {
    const path = 'queries/latest-posts.yaml'
    await withChanged({ [path]: (await text(path)).replace('take: first 5', 'take: all') }, async () => {
      const [finding] = await find('listing-unbounded')
      expect(finding).toMatchObject({
        subject: 'latest-posts',
        detail: '/ reads 41 of 48 posts for it; with 100,000 it would be 85,417.',
        witness: { address: '/', got: '85,417 rows of 100,000 posts' },
        mends: [{ label: 'Take the first 50' }],
      })
      await mend(finding)
      expect(await text(path)).toContain('take: first 50')
      expect(await find('listing-unbounded')).toEqual([])
      expect((await test.read('/')).status).toBe(200)
    })
  })
  it('the comments of one post are not flagged, those of all posts are', async () => {
    const path = 'queries/latest-comments.yaml'
    await withChanged({ [path]: (await text(path)).replace('take: first 3', 'take: all') }, async () => {
      expect((await find('listing-unbounded')).map((one) => one.subject)).toEqual(['latest-comments'])
    })
  })
})

describe('one-without-not-found', () => {
  it('the address of nothing is asked and answers 200; with “empty: not-found” it answers 404', async () => {
    const path = 'queries/tag-by-slug.yaml'
    await withChanged({ [path]: (await text(path)).replace('empty: not-found\n', '') }, async () => {
      const [finding] = await find('one-without-not-found')
      const address = finding?.witness.address ?? ''
      expect(finding).toMatchObject({
        subject: 'tag',
        witness: { got: '200', expected: '404' },
        place: { document: path },
      })
      expect((await test.read(address)).status).toBe(200)
      await mend(finding)
      expect((await test.read(address)).status).toBe(404)
      expect(await find('one-without-not-found')).toEqual([])
    })
  })
})

describe('page-parameter-shared', () => {
  it('a parameter of the query string that also turns pages: both listings change', async () => {
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
        expect(finding?.detail).toMatch(/^At \/both\?page=2, all-posts /)
      },
    )
    await test.database.query("DELETE FROM document WHERE path = 'queries/posts-by-number.yaml'")
  })
  it('two listings that turn by the same parameter cannot be saved at all', async () => {
    const added =
      '- name: both\n  path: /both\n  data: { posts: all-posts, of: search-posts }\n  query: { q: text }\n  template: pages/listing'
    await expect(write(await route(added))).rejects.toThrow(/turn their pages by the same \?page=/)
  })
})

describe('query-per-row', () => {
  it('a page that asks one query three times, walked', async () => {
    const data = ['bicycles', 'textiles', 'woodwork']
      .map((slug) => `    ${slug}: { query: some-of, with: { category: '"${slug}"' } }`)
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
        expect(await find('query-per-row')).toMatchObject([
          {
            subject: 'three some-of',
            title: '/three runs 3 statements for query “some-of”',
            detail: 'It is asked 3 times, for bicycles, textiles, woodwork.',
          },
        ])
      },
    )
    await test.database.query(
      "DELETE FROM document WHERE path IN ('queries/some-of.yaml', 'templates/pages/three.liquid')",
    )
  })
  it('statements that grow with the rows', async () => {
    const facts = {
      definition: { routes: [{ route: { name: 'list', path: '/list' } }], routePlaces: new Map() },
      addresses: () => Promise.resolve({ known: [{ route: 'list', path: '/list', title: null }], total: 1 }),
      asked: () =>
        Promise.resolve([{ data: 'posts', query: 'all', statements: 7, rows: 6, lists: 0, shown: [] }]),
    } as unknown as Facts
    expect((await queryPerRow.run(facts)).findings).toMatchObject([
      { title: '/list runs 7 statements for query “all”', detail: 'It gives 6 rows.' },
    ])
  })
})

describe('order-not-total', () => {
  it('two real rows that tie at the end of a page: found without the id, told apart with it', async () => {
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
  it('says which rows, and where', async () => {
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
        detail: '“A” and “B” are the same in -title.',
        witness: { text: '“A” ends page 2, “B” begins page 3' },
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
  it('from what was measured over 100,000 posts; the mend adds the index, and then it is proven', async () => {
    const query = test.blog.site.queries.get('all-posts')
    if (!query) throw new Error('no query')
    await keepResult(test.blog, query.meaning, result(10_000))
    expect(await find('no-index-for-order')).toEqual([])
    await keepResult(test.blog, query.meaning, result(100_000))
    const [finding] = await find('no-index-for-order')
    expect(finding).toMatchObject({
      subject: 'all-posts',
      detail: 'With 100,000 posts its first page takes 120 ms; with an index on -wordCount, -id, 1.3 ms.',
      witness: { address: '/posts', got: '120 ms', expected: '1.3 ms' },
    })
    await mend(finding)
    expect(await text('indexes.yaml')).toBe(
      '- { name: posts-word-count-id, on: posts, keys: [-wordCount, -id] }\n',
    )
    expect(await find('no-index-for-order')).toEqual([])
    const { proven } = test.checks.state
    expect(proven.find((one) => one.rule === 'no-index-for-order')?.count).toBe('1 of 19 queries measured')
  })
})
