// The Queries area over the API: every query of the demo is run, explained, and written as TypeORM code that is run, too.
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { nodesOf, readPlan, type PlanNode } from '../../../core/queries/explaining/execution-plan.ts'
import { runCode } from '../../testing/run-code.ts'
import { testWorkbench, type TestWorkbench } from '../../testing/workbench.ts'
import type { QueryPlan, QueryRun, QuerySummary } from '../../../contract/queries.ts'

let test: TestWorkbench
beforeAll(async () => (test = await testWorkbench()))
afterAll(() => test.close())

const list = async () => (await test.api<QuerySummary[]>('GET', '/api/queries')).answer
const text = async (name: string) =>
  (await test.api<{ text: string }>('GET', `/api/document?path=queries/${name}.yaml`)).answer.text
const request = (yaml: string, more: object = {}) => ({
  name: 'typed',
  text: yaml,
  parameters: {},
  page: 1,
  as: 'reader',
  ...more,
})
const run = async (yaml: string, more: object = {}) =>
  await test.api<QueryRun & { code: string; detail: string }>('POST', '/api/query/run', request(yaml, more))
const plan = async (yaml: string, more: object = {}) =>
  await test.api<QueryPlan>('POST', '/api/query/plan', request(yaml, more))

const PARAMETERS = {
  slug: 'moth',
  category: 'bicycles',
  post: '1',
  page: 'about',
  path: 'about',
  except: 'moth',
}

describe('the list', () => {
  it('has the source, the limit, the parameters and the routes of each query', async () => {
    const queries = await list()
    expect(queries.map((one) => one.name)).toEqual([...test.blog.site.definition.queries.keys()].toSorted())
    const category = queries.find((one) => one.name === 'posts-in-category')
    expect(category).toMatchObject({
      from: 'posts',
      take: 'pages',
      uses: [
        { route: 'category', path: '/category/:category', data: 'posts' },
        { route: 'category-feed', path: '/category/:category/feed.atom', data: 'posts' },
      ],
    })
    for (const { uses } of queries)
      for (const { example } of uses)
        if (example !== null) expect((await test.read(example)).status).toBe(200)
  })
})

describe('a run', () => {
  it('by cursor knows of rows before and after the page, also of a single one', async () => {
    const yaml = 'from: categories\norder: [position]\ntake: pages\npages: { size: 1, by: cursor }\n'
    const seen: [unknown, boolean, boolean][] = []
    let cursor: string | null = null
    do {
      const { answer }: { answer: QueryRun } = await run(yaml, cursor === null ? {} : { cursor })
      seen.push([
        answer.rows[0]?.[answer.columns.indexOf('slug')],
        answer.previous !== null,
        answer.next !== null,
      ])
      cursor = answer.next
    } while (cursor !== null)
    expect(seen.map(([, previous]) => previous)).toEqual([false, ...seen.slice(1).map(() => true)])
    expect(new Set(seen.map(([slug]) => slug)).size).toBe(7)
    // Backwards from the last page.
    const all = seen.map(([slug]) => slug)
    const last = await run(yaml, {})
    let back = last.answer
    while (back.next !== null) back = (await run(yaml, { cursor: back.next })).answer
    const backwards = [back.rows[0]?.[back.columns.indexOf('slug')]]
    while (back.previous !== null) {
      back = (await run(yaml, { cursor: back.previous })).answer
      backwards.push(back.rows[0]?.[back.columns.indexOf('slug')])
      expect(back.next).not.toBeNull()
    }
    expect(backwards).toEqual(all.toReversed())
  })
  it.each(['number', 'cursor'])('orders posts by their number of comments, in pages by %s', async (by) => {
    const yaml = `from: posts\nwith: [commentCount]\nwhere: [published]\norder: [-commentCount]\ntake: pages\npages: { size: 10, by: ${by} }\n`
    const counts: number[] = []
    let more: object = {}
    for (let page = 1; page <= 5; page++) {
      const { answer } = await run(yaml, { page, ...more })
      counts.push(...answer.rows.map((row) => Number(row[answer.columns.indexOf('commentCount')])))
      more = answer.next === null ? {} : { cursor: answer.next }
    }
    expect(counts).toHaveLength(41)
    expect(counts).toEqual(counts.toSorted((a, b) => b - a))
    expect(counts[0]).toBeGreaterThan(counts.at(-1) ?? 0)
  })
  it('returns the rows that readers get, in their order', async () => {
    const { answer } = await run(await text('all-posts'), { page: 2 })
    expect([answer.count, answer.total, answer.size]).toEqual([6, 41, 6])
    const slugs = answer.rows.map((row) => String(row[answer.columns.indexOf('slug')]))
    const { text: page } = await test.read('/posts?page=2')
    const places = slugs.map((slug) => page.indexOf(`/posts/${slug}"`))
    expect(places.every((at) => at > 0)).toBe(true)
    expect(places).toEqual(places.toSorted((a, b) => a - b))
    expect(answer.notes).toEqual([expect.stringContaining('-id')])
    expect(answer.statements.map((one) => one.rows)).toEqual([6, 1])
  })
  it('of an unsaved text evaluates groups and optional conditions', async () => {
    const yaml = `from: posts
where:
  - published
  - any:
      - { field: category.slug, is: equal, to: bicycles }
      - { field: tags.slug, is: equal, to: mending }
  - { field: title, is: contains, to: ":q", when: given }
order: [title]
take: all
`
    const all = (await run(yaml)).answer
    for (const part of [
      'published posts',
      ':q',
      'category.slug',
      'bicycles',
      'tags.slug',
      'mending',
      'title',
    ])
      expect(all.sentence).toContain(part)
    expect(all.parameters).toEqual([{ name: 'q', field: 'title', type: 'text', optional: true }])
    const [row] = await test.database.query<{ count: number }[]>(
      `SELECT count(*)::int AS count FROM post WHERE published_at <= now() AND (category_id = (SELECT id FROM category WHERE slug = 'bicycles')
         OR EXISTS (SELECT 1 FROM post_tag JOIN tag ON tag.id = tag_id WHERE post_id = post.id AND tag.slug = 'mending'))`,
    )
    expect(all.count).toBe(row?.count)
    const some = (await run(yaml, { parameters: { q: 'WHEEL' } })).answer
    expect(some.count).toBeGreaterThan(0)
    expect(some.count).toBeLessThan(all.count)
    expect((await run(yaml, { parameters: { q: 'no such title' } })).answer).toMatchObject({
      count: 0,
      total: null,
    })
  })
  it('returns a draft only to the author, and only by its own address', async () => {
    const yaml = await text('post-by-slug')
    const parameters = { slug: 'letter-to-a-new-volunteer' }
    expect((await run(yaml, { parameters })).answer).toMatchObject({
      count: 0,
      why: expect.stringContaining('is a draft') as string,
    })
    expect((await run(yaml, { parameters, as: 'author' })).answer.count).toBe(1)
  })
  it.each([
    ['from: posts\ntake: [', 'yaml-not-closed'],
    ['from: post\ntake: all', 'value-not-allowed'],
    ['from: posts\nwhere: [{ field: nme, is: equal, to: a }]\ntake: all', 'query-field-unknown'],
    [
      'from: posts\nwhere: [{ any: [{ not: { field: id, is: equal, to: x } }] }]\ntake: all',
      'query-value-type',
    ],
    [
      'from: posts\nwhere: [{ field: id, is: equal, to: 1, when: given }]\ntake: all',
      'query-when-without-parameter',
    ],
    ['from: posts\nwhere: [{ any: [] }]\ntake: all', 'value-empty'],
  ])('%j is refused with its place', async (yaml, code) => {
    const { status, answer } = await run(yaml)
    expect(status).toBe(200)
    const [problem] = answer.problems
    expect(problem?.code).toBe(code)
    expect(problem?.line).toBeGreaterThan(0)
    expect((await plan(yaml)).status).toBe(422)
  })
  it('refuses a value of another type, and names a missing one', async () => {
    const yaml = 'from: posts\nwhere: [{ field: id, is: equal, to: ":n" }]\ntake: one\n'
    expect((await run(yaml)).answer.why).toContain(':n')
    expect((await run(yaml, { parameters: { n: '1' } })).answer.count).toBe(1)
    const wrong = await run(yaml, { parameters: { n: "1'; DROP TABLE post; --" } })
    expect([wrong.status, wrong.answer.code]).toEqual([422, 'query-parameter-invalid'])
    const large = await run(yaml, { parameters: { n: '9999999999' } })
    expect([large.status, large.answer.code]).toEqual([422, 'query-run-failed'])
  })
})

const sumOf = (node: PlanNode): number =>
  node.ownMilliseconds + node.children.reduce((sum, one) => sum + sumOf(one), 0)

describe('the plan', () => {
  it('of every query of the demo has each step in words, and its times add up', async () => {
    for (const { name } of await list()) {
      const yaml = await text(name)
      const { status, answer } = await plan(yaml, { parameters: PARAMETERS })
      expect(status, name).toBe(200)
      const rows = (await run(yaml, { parameters: PARAMETERS })).answer
      // With cursors, one more row is read, to know whether there is a next page.
      const more = rows.next === null ? 0 : 1
      expect(answer.statements[0]?.steps[0]?.rows, name).toBe(rows.count + more)
      for (const { steps, executionMilliseconds } of answer.statements) {
        const [root] = steps
        expect(root?.milliseconds).toBeLessThanOrEqual(executionMilliseconds + 0.5)
        const own = steps.reduce((sum, one) => sum + one.ownMilliseconds, 0)
        expect(own).toBeLessThanOrEqual((root?.milliseconds ?? 0) * 1.2 + 0.2)
        // A kind of step without its own words would repeat its name.
        for (const { kind, sentence } of steps) expect(sentence, kind).not.toBe(kind.toLowerCase())
      }
    }
  })
  it('of an address has the statements of its walk with their values', async () => {
    const { answer } = await test.api<QueryPlan>(
      'GET',
      '/api/walk/plan?path=%2Fcategory%2Felectrical%3Fpage%3D2&data=posts',
    )
    const [rows, total] = answer.statements
    expect(rows?.sql).toContain('WITH RECURSIVE')
    expect(rows?.steps[0]?.rows).toBe(3)
    expect(total?.steps[0]?.kind).toBe('Aggregate')
  })
  it('changes nothing', async () => {
    const before = await test.database.query<unknown[]>('SELECT count(*) FROM post')
    await plan(await text('all-posts'))
    expect(await test.database.query<unknown[]>('SELECT count(*) FROM post')).toEqual(before)
  })
  it('explains steps that the demo does not cause', async () => {
    // Every kind of step that PostgreSQL can be made to use with small tables.
    const kinds = new Set<string>()
    const ask = async (sql: string, settings: string[] = []) => {
      const runner = test.database.createQueryRunner()
      await runner.startTransaction()
      for (const one of settings) await runner.query(`SET LOCAL ${one}`)
      const rows = (await runner.query(`EXPLAIN (ANALYZE, BUFFERS, FORMAT JSON) ${sql}`)) as {
        'QUERY PLAN': unknown
      }[]
      await runner.rollbackTransaction()
      await runner.release()
      const { root } = readPlan(rows[0]?.['QUERY PLAN'])
      for (const { node } of nodesOf(root)) {
        kinds.add(node.kind)
        expect(node.sentence, node.kind).not.toBe(node.kind.toLowerCase())
        expect(sumOf(node)).toBeGreaterThanOrEqual(0)
      }
      return root
    }
    const wasted = await ask('SELECT * FROM generate_series(1, 5000) n WHERE n % 100 = 0')
    expect(wasted.notes).toContainEqual(expect.stringMatching(/5,000 rows.*\b50\b/))
    const disk = await ask(
      'SELECT n, repeat(md5(n::text), 20) t FROM generate_series(1, 20000) n ORDER BY t',
      ['work_mem = 64'],
    )
    expect([...nodesOf(disk)].flatMap(({ node }) => node.notes).join(' ')).toMatch(/[\d,]+ kB.*disk/)
    const never = await ask(
      'SELECT * FROM post WHERE false AND id = 1 UNION ALL SELECT * FROM post WHERE id = 1',
    )
    expect(never).toBeDefined()
    for (const [sql, settings] of [
      [
        'SELECT * FROM post JOIN category ON category.id = category_id',
        ['enable_nestloop = off', 'enable_mergejoin = off'],
      ],
      [
        'SELECT * FROM post JOIN category ON category.id = category_id',
        ['enable_hashjoin = off', 'enable_nestloop = off'],
      ],
      [
        'SELECT * FROM post JOIN comment ON comment.post_id = post.id',
        ['enable_hashjoin = off', 'enable_mergejoin = off'],
      ],
      ['SELECT * FROM post WHERE id IN (1, 2) OR slug = $$moth$$', ['enable_seqscan = off']],
      ['SELECT id FROM post WHERE id > 3 ORDER BY id', ['enable_seqscan = off', 'enable_bitmapscan = off']],
      ['SELECT DISTINCT category_id FROM post', ['enable_hashagg = off']],
      ['SELECT category_id, count(*) FROM post GROUP BY category_id', []],
      ['SELECT row_number() OVER (ORDER BY id) FROM post', []],
      ['WITH kept AS MATERIALIZED (SELECT * FROM post) SELECT * FROM kept, kept other', []],
      ['SELECT * FROM (VALUES (1), (2)) v', []],
      ['SELECT unnest(ARRAY[1, 2])', []],
      ['SELECT id FROM post UNION ALL SELECT id FROM page', []],
      [
        'SELECT category_id, published_at, id FROM post ORDER BY category_id, published_at, title',
        ['enable_seqscan = off'],
      ],
      [
        'SELECT * FROM post WHERE slug LIKE $$%zip%$$ AND title ILIKE $$%zip%$$',
        ['enable_seqscan = off', 'enable_indexscan = off'],
      ],
    ] as const)
      await ask(sql, [...settings])
    // A subquery that runs once is below the step that reads its value, and its time does not count for that step.
    const once = await ask(
      'SELECT id FROM post WHERE id = ANY (ARRAY(SELECT id FROM post, pg_sleep(0.05) ORDER BY published_at LIMIT 3)) ORDER BY title',
    )
    const user = [...nodesOf(once)].find(({ node }) =>
      node.children.some((one) => one.kind === 'Limit'),
    )?.node
    expect(user?.table).toBe('post')
    expect(user?.milliseconds).toBeGreaterThan(50)
    expect(user?.ownMilliseconds).toBeLessThan(50)
    expect([...kinds].toSorted()).toEqual(
      expect.arrayContaining([
        'Aggregate',
        'Append',
        'Bitmap Heap Scan',
        'Bitmap Index Scan',
        'CTE Scan',
        'Function Scan',
        'Hash',
        'Hash Join',
        'Index Only Scan',

        'Merge Join',
        'Nested Loop',
        'Seq Scan',
        'Sort',
        'WindowAgg',
      ]),
    )
  })
  it('is refused if it is not a plan', () => {
    for (const wrong of [undefined, null, [], [{}], 'Seq Scan']) expect(() => readPlan(wrong)).toThrow()
  })
})

describe('the TypeORM code', () => {
  /** Returns the values of a cursor. Its first part is the direction. */
  const valuesOf = (cursor: string): unknown[] =>
    (JSON.parse(Buffer.from(cursor.split('.')[0] ?? '', 'base64url').toString()) as unknown[]).slice(1)

  const QUERIES = [
    'from: posts\nwhere: [{ not: published }]\norder: [category.name, -publishedAt, title]\ntake: pages\npages: { size: 3, by: cursor }\n',
    'from: posts\nwhere: [published]\norder: [category.name, -wordCount]\ntake: pages\npages: { size: 4, by: cursor }\n',
    'from: posts\nwhere: [published]\ncount-by: [tags.slug, tags.name]\norder: [-count, tags.name]\ntake: first 5\n',
    'from: posts\ncount-by: [category.slug]\ntake: all\n',
    'from: posts\nwhere: [published, { field: category.slug, is: within, to: electrical }]\norder: [title]\ntake: all\n',
    'from: posts\nwith: [category, tags, commentCount]\nwhere: [published]\norder: [-publishedAt]\ntake: pages\npages: { size: 5 }\n',
    'from: posts\nwith: [tags]\nwhere: [published, { field: tags.slug, is: equal, to: mending }]\norder: [title]\ntake: first 3\n',
    'from: posts\nwhere: [{ any: [{ field: title, is: contains, to: "it\'s" }, { not: published }] }]\norder: [-publishedAt]\ntake: all\n',
    'from: posts\nwhere: [{ field: publishedYear, is: in, to: [2025, 2026] }]\norder: [category.name, id]\ntake: all\n',
    'from: comments\nwhere: [shown]\norder: [-createdAt]\ntake: first 4\n',
    'from: posts\nwhere: [published, { field: words, is: matches, to: ":q" }]\norder: [-relevance]\ntake: first 5\n',
    'from: posts\nwith: [tags, category]\nwhere: [published, { field: words, is: matches, to: ":q" }]\norder: [-relevance, category.name]\ntake: pages\npages: { size: 3 }\n',
    'from: posts\nwith: [tags]\nwhere: [published]\norder: [publishedMonth, -title]\ntake: pages\npages: { size: 7 }\n',
    'from: pages\nwith: [parent]\nwhere: [in-navigation]\norder: [position]\ntake: all\n',
  ]
  it('returns the same rows in the same order, for every query of the demo and others', async () => {
    const all = [...(await Promise.all((await list()).map((one) => text(one.name)))), ...QUERIES]
    for (const yaml of all)
      for (const page of [1, 2]) {
        // Beyond the last page, this query shows the last one; the code is for the page that is asked for.
        if (page > 1 && yaml.includes('past-the-end: last')) continue
        let { answer } = await run(yaml, { parameters: PARAMETERS, page })
        let after: unknown[] | null = null
        if (page === 2 && answer.next !== null) {
          after = valuesOf(answer.next)
          answer = (await run(yaml, { parameters: PARAMETERS, page, cursor: answer.next })).answer
        }
        const made = await runCode(test.database, answer.code, { ...PARAMETERS, post: 1 }, page, after)
        const key = answer.columns.includes('id') ? 'id' : 'count'
        const values = answer.rows.map((row) => Number(row[answer.columns.indexOf(key)]))
        expect(
          made.rows.map((one) => Number(one[key])),
          answer.code,
        ).toEqual(values)
        if (answer.total !== null) expect(made.total).toBe(answer.total)
      }
  })
})
