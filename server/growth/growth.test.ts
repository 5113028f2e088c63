// Measuring growth on real PostgreSQL: generated posts, runs, advice, and cleaning up.
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { Client } from 'pg'
import { readMeaning, type QueryMeaning } from '../../core/queries/meaning.ts'
import type { Query } from '../../core/shapes/schemas.ts'
import { BUILT_IN } from '../../core/queries/indexes.ts'
import type { GrowthReport, OwnIndexItem } from '../../contract/growth.ts'
import { testWorkbench, type TestWorkbench } from '../testing/workbench.ts'
import { fillBasics, fillTo, wordOfRank } from './fill.ts'
import { adviseIndex, measureSize, sampleParameters } from './measure.ts'
import { dropLeftovers, makeScratch, ScratchProblem, type Scratch } from './scratch.ts'
import { GrowthJobs } from './job.ts'
import { storeResult } from './stored.ts'

let test: TestWorkbench
beforeAll(async () => (test = await testWorkbench()))
afterAll(() => test.close())

const scratches = async () =>
  (
    await test.database.query<{ n: number }[]>(
      "SELECT count(*)::int AS n FROM pg_database WHERE starts_with(datname, 'esquina_scratch_')",
    )
  )[0]?.n ?? 0
const meaningOf = (query: Query): QueryMeaning => {
  const read = readMeaning(query)
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  return read.meaning
}
const forever = new AbortController().signal

describe('generated posts', () => {
  let scratch: Scratch
  const SIZE = 8_000
  const one = async <T>(sql: string) => (await scratch.database.query<T[]>(sql))[0] as T
  beforeAll(async () => {
    scratch = await makeScratch(test.database)
    await fillBasics(scratch.database, { comments: true, words: true })
    await fillTo(scratch.database, 0, 3_000, { comments: true, words: true }, forever, () => undefined)
    await fillTo(scratch.database, 3_000, SIZE, { comments: true, words: true }, forever, () => undefined)
  })
  afterAll(() => scratch.drop())

  it('have the requested number, with some drafts and scheduled posts', async () => {
    const counted = await one<{ all: number; drafts: number; scheduled: number }>(
      'SELECT count(*)::int AS all, count(*) FILTER (WHERE published_at IS NULL)::int AS drafts, count(*) FILTER (WHERE published_at > now())::int AS scheduled FROM post',
    )
    expect(counted.all).toBe(SIZE)
    expect(counted.drafts / SIZE).toBeCloseTo(0.03, 1)
    expect(counted.scheduled).toBeGreaterThan(0)
  })
  it('categories follow Zipf: the k-th has about 1/k of the first', async () => {
    const rows = await scratch.database.query<{ n: number }[]>(
      'SELECT count(*)::int AS n FROM post WHERE category_id IS NOT NULL GROUP BY category_id ORDER BY n DESC',
    )
    const [first = 0] = rows.map((row) => row.n)
    for (const rank of [2, 3, 5, 10]) {
      const share = (rows[rank - 1]?.n ?? 0) / first
      expect(share * rank, `rank ${rank}`).toBeGreaterThan(0.8)
      expect(share * rank, `rank ${rank}`).toBeLessThan(1.25)
    }
  })
  it('come in bursts: half the days between posts are far shorter than the mean', async () => {
    const gaps = await one<{ median: number; mean: number }>(
      `SELECT percentile_cont(0.5) WITHIN GROUP (ORDER BY gap) AS median, avg(gap) AS mean FROM
       (SELECT extract(epoch FROM published_at - lag(published_at) OVER (ORDER BY published_at))::float8 AS gap FROM post WHERE published_at <= now()) g`,
    )
    expect(gaps.median).toBeLessThan(gaps.mean * 0.6)
  })
  it('comments are skewed: a tenth of the posts has more than a third of them', async () => {
    const share = await one<{ share: number }>(
      `SELECT (sum(n) FILTER (WHERE place <= ${SIZE / 10}) / sum(n))::float8 AS share FROM (SELECT count(*) AS n, row_number() OVER (ORDER BY count(*) DESC) AS place FROM comment GROUP BY post_id) c`,
    )
    expect(share.share).toBeGreaterThan(0.33)
  })
  it('have search words and the indexes of every blog', async () => {
    const found = await one<{ n: number }>(
      `SELECT count(*)::int AS n FROM post WHERE search @@ websearch_to_tsquery('simple', '${wordOfRank(12)}')`,
    )
    expect(found.n).toBeGreaterThan(50)
    const names = async (database: { query<T>(sql: string): Promise<T> }) =>
      (
        await database.query<{ name: string }[]>(
          "SELECT indexname AS name FROM pg_indexes WHERE tablename IN ('post', 'comment', 'post_tag') ORDER BY 1",
        )
      ).map((row) => row.name)
    expect(await names(scratch.database)).toEqual(await names(test.database))
  })
  it('indexes of every blog are not tried again', async () => {
    const rows = await scratch.database.query<{ sql: string }[]>('SELECT indexdef AS sql FROM pg_indexes')
    const made = rows.map((row) => /\((.*)\)$/.exec(row.sql)?.[1])
    for (const { keys } of BUILT_IN) {
      const columns = keys.map(({ field }) =>
        ['category', 'author', 'post'].includes(field)
          ? `${field}_id`
          : field.replace(/[A-Z]/g, (letter) => `_${letter.toLowerCase()}`),
      )
      expect(made).toContain(columns.join(', '))
    }
  })
  it('every query of the demo runs on its first, middle and last page', async () => {
    for (const [name, { meaning }] of test.blog.site.queries) {
      const subject = { name, meaning, locale: test.blog.site.definition, own: [] }
      const { measured, total } = await measureSize(scratch.database, subject, SIZE, forever, () => undefined)
      expect(measured.length, name).toBeGreaterThan(0)
      for (const one of measured) expect(one.milliseconds).toBeGreaterThan(0)
      if (name === 'all-posts') {
        const { n } = await one<{ n: number }>(
          'SELECT count(*)::int AS n FROM post WHERE published_at <= now()',
        )
        expect(total).toBe(n)
        const last = Math.ceil(n / 6)
        expect(
          measured.filter((row) => row.index === null).map((row) => [row.by, row.page, row.number]),
        ).toEqual([
          ['number', 'first', 1],
          ['number', 'middle', Math.ceil(last / 2)],
          ['number', 'last', last],
          ['cursor', 'first', 1],
          ['cursor', 'middle', Math.ceil(last / 2)],
          ['cursor', 'last', last],
        ])
        const rows = measured.filter((row) => row.page === 'last').map((row) => row.rows)
        expect(new Set(rows)).toEqual(new Set([n % 6 || 6]))
      }
    }
  })
  it('an index that helps is found by trying; one that does not is not advised', async () => {
    const tryOn = async (query: Query) => {
      const meaning = meaningOf(query)
      const subject = { name: 'tried', meaning, locale: test.blog.site.definition, own: [] }
      const { measured, tried } = await measureSize(scratch.database, subject, SIZE, forever, () => undefined)
      return { tried, advised: adviseIndex(meaning, tried, measured) }
    }
    const pages = { size: 6, count: 'estimated' as const }
    // No index of every blog has the order by the number of words.
    const words = await tryOn({
      from: 'posts',
      where: ['published'],
      order: ['-wordCount'],
      take: 'pages',
      pages,
    })
    expect(words.tried.map((one) => [one.keys.join(), one.isUsed])).toEqual([['-wordCount,-id', true]])
    // Its index exists already, and nothing that is tried is better.
    const dates = await tryOn({
      from: 'posts',
      where: ['published'],
      order: ['-publishedAt'],
      take: 'pages',
      pages,
    })
    expect(dates.advised).toBe(null)
    // By name of the category, no index on posts can.
    const names = await tryOn({ from: 'posts', order: ['category.name'], take: 'first 5' })
    expect(names).toEqual({ tried: [], advised: null })
    const left = await one<{ n: number }>(
      "SELECT count(*)::int AS n FROM pg_indexes WHERE starts_with(indexname, 'own_')",
    )
    expect(left.n).toBe(0)
  })
})

describe('advice', () => {
  const tried = (name: string, isUsed = true) => ({ name, on: 'posts', keys: ['title'], isUsed, bytes: 1 })
  const measured = (index: string | null, milliseconds: number, size = 1_000) => ({
    size,
    index,
    by: 'whole' as const,
    page: 'first' as const,
    number: null,
    milliseconds,
    runs: 5,
    rows: 5,
  })
  const meaning = meaningOf({ from: 'posts', order: ['title'], take: 'first 5' })
  it.each([
    [
      'the faster of two',
      [tried('a'), tried('b')],
      [measured(null, 9), measured('a', 3), measured('b', 2)],
      'b',
    ],
    ['none that is a little faster', [tried('a')], [measured(null, 3), measured('a', 2.2)], null],
    ['none where all is quick', [tried('a')], [measured(null, 0.3), measured('a', 0.1)], null],
    ['none that PostgreSQL does not use', [tried('a', false)], [measured(null, 9), measured('a', 1)], null],
    [
      'by the largest size',
      [tried('a')],
      [measured(null, 9, 10), measured('a', 1, 10), measured(null, 9), measured('a', 8)],
      null,
    ],
  ])('%s', (_, all, rows, expected) => {
    expect(adviseIndex(meaning, all, rows)?.name ?? null).toBe(expected)
  })
})

describe('parameters', () => {
  it('have the most frequent values', () => {
    const meaning = meaningOf({
      from: 'posts',
      where: [
        { field: 'category.slug', is: 'equal', to: ':category' },
        { field: 'tags.slug', is: 'equal', to: ':tag' },
        { field: 'slug', is: 'not-equal', to: ':except' },
        { field: 'publishedMonth', is: 'equal', to: ':month' },
      ],
      take: 'all',
    })
    expect(sampleParameters(meaning, 1_000)).toEqual({
      category: 'c1',
      tag: 't1',
      except: 'post-500',
      month: 6,
    })
  })
})

describe('as a job', () => {
  const state = async (query = '') => (await test.api<GrowthReport>('GET', `/api/growth${query}`)).answer
  const start = async (queries: string[], sizes = [1_000]) =>
    await test.api<GrowthReport & { title: string }>('POST', '/api/growth', { queries, sizes })

  it('reports progress, refuses a second job, stores its results, and drops its database', async () => {
    const before = await test.database.query('SELECT count(*), max(id) FROM post')
    const { status, answer } = await start(['posts-in-category', 'all-posts'], [10_000, 1_000])
    expect([status, answer.running?.queries, answer.running?.sizes]).toEqual([
      200,
      ['posts-in-category', 'all-posts'],
      [1_000, 10_000],
    ])
    expect((await start(['all-posts'])).status).toBe(409)
    const shares: number[] = []
    const steps = new Set<string>()
    while (test.growth.progress) {
      shares.push(test.growth.progress.share)
      steps.add(test.growth.progress.doing)
      await new Promise((done) => setTimeout(done, 20))
    }
    expect(shares).toEqual(shares.toSorted((a, b) => a - b))
    expect(steps).toContain('Generating 10,000 posts')
    expect(await scratches()).toBe(0)
    expect(await test.database.query('SELECT count(*), max(id) FROM post')).toEqual(before)
    const { results, failure } = await state('?query=posts-in-category')
    expect(failure).toBe(null)
    expect(results).toMatchObject([
      {
        isCurrent: true,
        result: { query: 'posts-in-category', sizes: [1_000, 10_000], parameters: { category: 'c1' } },
      },
    ])
    expect(results[0]?.result.totals[1]).toBeGreaterThan(results[0]?.result.totals[0] ?? 0)
    expect(results[0]?.result.machine).toMatch(/^\d+ × .*, \d+ GB, PostgreSQL \d+/)
  })

  it('can be cancelled in the middle of a statement', async () => {
    await start(['all-posts'], [1_000, 1_000_000])
    while (!test.growth.progress?.doing.includes('1,000,000'))
      await new Promise((done) => setTimeout(done, 20))
    const { answer } = await test.api<GrowthReport>('DELETE', '/api/growth')
    expect(answer).toMatchObject({ running: null, failure: { isCancelled: true } })
    expect(await scratches()).toBe(0)
    expect((await state('?query=all-posts')).results).toHaveLength(1)
  })

  it('an accepted index is added to the definition and built while the blog stays available', async () => {
    const text =
      'from: posts\nwhere: [published]\norder: [-wordCount]\ntake: pages\npages: { size: 6, count: estimated }\n'
    await test.api('PUT', '/api/document', {
      path: 'queries/long-reads.yaml',
      text,
      version: 0,
    })
    await start(['long-reads'], [1_000, 10_000])
    await test.growth.ended()
    const [measured] = (await state('?query=long-reads')).results
    expect(measured?.result.tried).toMatchObject([{ keys: ['-wordCount', '-id'], isUsed: true }])
    // Whether it is fast enough depends on the machine, so the result is fixed here.
    const advised = { name: 'posts-word-count-id', size: 10_000, before: 10, after: 1 }
    const query = test.blog.site.queries.get('long-reads')
    if (!measured || !query) throw new Error('nothing was measured')
    await storeResult(test.blog, query.meaning, { ...measured.result, advised })
    const [kept] = (await state('?query=long-reads')).results
    expect(kept?.acceptance).toEqual({
      text: '- { name: posts-word-count-id, on: posts, keys: [-wordCount, -id] }\n',
      version: 0,
    })
    const accepted = kept?.acceptance ?? { text: '', version: 0 }
    expect((await test.api('PUT', '/api/document', { path: 'indexes.yaml', ...accepted })).status).toBe(200)
    const indexes = async () => (await test.api<OwnIndexItem[]>('GET', '/api/indexes')).answer
    for (let tries = 0; tries < 200 && (await indexes())[0]?.state !== 'ready'; tries++)
      await new Promise((done) => setTimeout(done, 50))
    expect(await indexes()).toMatchObject([{ name: 'posts-word-count-id', state: 'ready', problem: null }])
    const [row] = await test.database.query<{ sql: string }[]>(
      "SELECT indexdef AS sql FROM pg_indexes WHERE starts_with(indexname, 'own_')",
    )
    expect(row?.sql).toMatch(/ON public\.post USING btree \(word_count DESC, id DESC\)$/)
    // An accepted index is not advised again; one that is removed from the definition is dropped.
    expect((await state('?query=long-reads')).results[0]?.acceptance).toBe(null)
    await test.api('PUT', '/api/document', { path: 'indexes.yaml', text: '[]\n', version: 1 })
    await test.indexes.want(test.blog.site.definition.indexes, test.blog.site.definition)
    expect(
      await test.database.query("SELECT 1 FROM pg_indexes WHERE starts_with(indexname, 'own_')"),
    ).toEqual([])
    // After a change of the query, its results are outdated.
    await test.api('PUT', '/api/document', {
      path: 'queries/long-reads.yaml',
      text: text.replace('-wordCount', 'wordCount'),
      version: 1,
    })
    expect((await state('?query=long-reads')).results[0]?.isCurrent).toBe(false)
  })

  it('is refused for an unknown query, or without sizes', async () => {
    expect((await start(['nothing'])).status).toBe(404)
    expect((await start(['all-posts'], [])).status).toBe(400)
    expect((await start(['all-posts'], [5])).status).toBe(400)
  })
})

describe('without the necessary rights', () => {
  it('names the missing right', async () => {
    const administrator = new Client({ connectionString: process.env['ESQUINA_TEST_ADMINISTRATOR'] })
    await administrator.connect()
    await administrator.query('ALTER ROLE esquina NOCREATEDB')
    try {
      await expect(makeScratch(test.database)).rejects.toThrow(ScratchProblem)
      const jobs = new GrowthJobs(test.blog)
      const query = test.blog.site.queries.get('all-posts')
      if (query)
        jobs.start(
          [{ name: 'all-posts', meaning: query.meaning, locale: test.blog.site.definition, own: [] }],
          [1_000],
        )
      await jobs.ended()
      expect(jobs.failure?.message).toMatch(/not allowed to create databases.*CREATEDB/)
    } finally {
      await administrator.query('ALTER ROLE esquina CREATEDB')
      await administrator.end()
    }
  })
  it('databases of ended processes are dropped', async () => {
    await test.database.query('CREATE DATABASE esquina_scratch_999999999_abcd')
    const scratch = await makeScratch(test.database)
    // Including those of this process: nothing is measured when a server starts.
    expect(await dropLeftovers(test.database)).toContain('esquina_scratch_999999999_abcd')
    await scratch.drop()
    expect(await scratches()).toBe(0)
  })
})
