// Searches for words in nearly every post: the newest are ranked and the others follow, with either statement.
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Query } from '../../../core/shapes/schemas.ts'
import { readMeaning } from '../../../core/queries/meaning.ts'
import { runQuery } from './run-query.ts'
import { fillBasics, fillTo, wordOfRank } from '../../growth/fill.ts'
import { testBlog, type TestBlog } from '../../testing/database.ts'
import { compileQuery } from './compile-query.ts'
import { poolOf } from '../connection.ts'
import { expectedRows } from './estimate.ts'
import { runCode } from '../../testing/run-code.ts'
import { chooseStatement } from './choose-statement.ts'
import { typeormSource } from './typeorm-source.ts'

const SIZE = 6_000
const PAGE = 40
const RANKED = 1_000
const LOCALE = { timeZone: 'UTC', searchConfiguration: 'simple' } as const
const NEEDS = { comments: false, words: true }

let test: TestBlog
beforeAll(async () => {
  test = await testBlog()
  await test.database.query('TRUNCATE post, category, author, tag RESTART IDENTITY CASCADE')
  // Generated words have no stems.
  await test.database.query(`DELETE FROM setting WHERE name = 'search-language'`)
  await fillBasics(test.database, NEEDS)
  await fillTo(test.database, 0, SIZE, NEEDS, new AbortController().signal, () => undefined)
  await test.database.query('ANALYZE post')
})
afterAll(() => test.close())

function compiled(count: 'exact' | 'estimated', more: Partial<Query> = {}) {
  const read = readMeaning({
    from: 'posts',
    where: ['published', { field: 'words', is: 'matches', to: ':q' }],
    order: ['-relevance', '-publishedAt'],
    take: 'pages',
    pages: { size: PAGE, count, 'past-the-end': 'empty' },
    ...more,
  })
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  const { meaning } = read
  return { meaning, compiled: compileQuery(test.database, meaning, 'reader', LOCALE, ['id', 'title']) }
}

const ask = async (query: ReturnType<typeof compiled>, q: string, number: number) =>
  await runQuery(poolOf(test.database), { name: 'search', ...query, parameters: { q }, page: { number } })

/** All that has a word, by a statement written by hand, the newest first. */
const having = async (word: string) =>
  await test.database.query<{ id: number; title: string; rank: number }[]>(
    `SELECT id, title, ts_rank_cd(search, to_tsquery('simple', $1)) AS rank FROM post
     WHERE search @@ to_tsquery('simple', $1) AND published_at <= now() ORDER BY published_at DESC, id DESC`,
    [word],
  )

const FREQUENT = wordOfRank(3)

describe('a search for a word in most posts', () => {
  it('returns each of them once: the newest by rank, the others by date', async () => {
    const query = compiled('exact')
    const found = await having(FREQUENT)
    expect(found.length).toBeGreaterThan(3 * RANKED)
    const newest = found.slice(0, RANKED)
    const place = new Map(newest.map((one, at) => [one.id, at]))
    newest.sort((a, b) => b.rank - a.rank || (place.get(a.id) ?? 0) - (place.get(b.id) ?? 0))
    const expected = [...newest, ...found.slice(RANKED)].map((one) => one.id)
    const given: number[] = []
    for (let number = 1; number <= Math.ceil(found.length / PAGE); number++) {
      const { rows, total } = await ask(query, FREQUENT, number)
      expect(total).toBe(found.length)
      given.push(...rows.map((row) => Number(row['id'])))
    }
    expect(given).toEqual(expected)
  })
  it('returns the same by the index of words and row by row', async () => {
    const { ranked } = compiled('exact').compiled
    const pool = poolOf(test.database)
    const ids = async (
      { sql, slots }: { sql: string; slots: { kind: string }[] },
      q: string,
      offset: number,
    ) =>
      (
        await pool.query<{ id: number }>(
          sql,
          slots.map((slot) => (slot.kind === 'offset' ? offset : q)),
        )
      ).rows.map((row) => row.id)
    for (const q of [
      FREQUENT,
      wordOfRank(12),
      wordOfRank(250),
      `${FREQUENT} ${wordOfRank(12)}`,
      'nosuchword',
      'the',
      '',
    ])
      for (const [pages, offset] of [
        ['best', 0],
        ['best', 13 * PAGE],
        ['rest', RANKED],
        ['rest', RANKED + 7 * PAGE],
      ] as const) {
        const [byIndex, rowByRow] = [ranked?.byIndex[pages], ranked?.rowByRow?.[pages]]
        if (!byIndex || !rowByRow) throw new Error('it has both ways')
        expect(await ids(rowByRow, q, offset), `${q} ${pages} ${offset}`).toEqual(
          await ids(byIndex, q, offset),
        )
      }
  })
  it('returns the same with the printed TypeORM code', async () => {
    const query = compiled('exact')
    const code = typeormSource(query.meaning, LOCALE)
    for (const number of [1, RANKED / PAGE, RANKED / PAGE + 1]) {
      const { rows, total } = await runCode(test.database, code, { q: FREQUENT }, number)
      const given = await ask(query, FREQUENT, number)
      expect(rows.map((row) => row['id'])).toEqual(given.rows.map((row) => row['id']))
      expect(total).toBe(given.total)
    }
  })
  it('reads the newest posts; for a rare word, it uses the index of words', async () => {
    const query = compiled('estimated').compiled
    const pool = poolOf(test.database)
    const from = async (q: string, offset: number) =>
      await chooseStatement(pool, query, { parameters: { q }, offset })
    expect(await from(FREQUENT, 0)).toBe(query.ranked?.rowByRow?.best)
    expect(await from(FREQUENT, RANKED)).toBe(query.ranked?.rowByRow?.rest)
    // On deep pages, all posts before would be read.
    expect(await from(FREQUENT, 5 * RANKED)).toBe(query.ranked?.byIndex.rest)
    for (const q of [wordOfRank(450), 'nosuchword', ''])
      expect(await from(q, 0), q).toBe(query.ranked?.byIndex.best)
  })
  it('is estimated without counting, and a rare word is counted exactly', async () => {
    const query = compiled('estimated')
    const many = await ask(query, FREQUENT, 1)
    expect(many.isEstimated).toBe(true)
    expect(many.total).toBeGreaterThan(0.9 * (await having(FREQUENT)).length)
    expect(many.total).toBeLessThan(1.1 * (await having(FREQUENT)).length)
    const rare = wordOfRank(590)
    const few = await ask(query, rare, 1)
    expect([few.isEstimated, few.total]).toEqual([false, (await having(rare)).length])
  })
  it('knows on the last ranked page that others follow, and on the last page that none do', async () => {
    const query = compiled('estimated')
    const last = Math.ceil((await having(FREQUENT)).length / PAGE)
    expect((await ask(query, FREQUENT, RANKED / PAGE)).around).toEqual({ before: true, after: true })
    expect((await ask(query, FREQUENT, last)).around).toEqual({ before: true, after: false })
    expect((await ask(query, FREQUENT, last + 1)).rows).toHaveLength(0)
  })
  it('only looks for typing errors if few posts have the exact words', async () => {
    const { database } = test
    const slip = (word: string) => `${word.slice(0, -1)}${word.slice(-1)}${word.slice(-1)}`
    const rare = wordOfRank(599)
    expect((await having(rare)).length).toBeLessThan(RANKED)
    for (const [slug, word] of [
      ['slip-frequent', slip(FREQUENT)],
      ['slip-rare', slip(rare)],
    ])
      await database.query(
        `INSERT INTO post (title, slug, excerpt, body, html, pipeline, word_count, published_at) VALUES ($1, $2, '', '', '', '', 0, now())`,
        [word, slug],
      )
    const titles = async (q: string) => {
      const found: unknown[] = []
      for (let number = 1; number <= RANKED / PAGE; number++)
        found.push(...(await ask(compiled('exact'), q, number)).rows.map((row) => row['title']))
      return found
    }
    expect(await titles(rare)).toContain(slip(rare))
    expect(await titles(FREQUENT)).not.toContain(slip(FREQUENT))
  })
  it('within a category, the estimate is right, so the statement is chosen by the posts there', async () => {
    const within = { field: 'category.slug', is: 'within', to: ':c' } as const
    const search = { field: 'words', is: 'matches', to: ':q' } as const
    const both = compiled('estimated', { where: ['published', search, within] })
    const listing = compiled('estimated', { where: ['published', within], order: ['-publishedAt'] })
    const pool = poolOf(test.database)
    for (const c of ['c1', 'c2', 'c20', 'nosuch']) {
      const [row] = await test.database.query<{ n: number }[]>(
        `SELECT count(*)::int AS n FROM post JOIN category ON category.id = category_id LEFT JOIN category above ON above.id = category.parent_id
         WHERE published_at <= now() AND $1 IN (category.slug, above.slug)`,
        [c],
      )
      const [n, explained] = [row?.n ?? 0, listing.compiled.estimate?.explained]
      if (!explained) throw new Error('it is estimated')
      const expected = await expectedRows(pool, explained, { parameters: { c } })
      expect(Math.abs(expected - n), `${c}: ${expected} of ${n}`).toBeLessThan(20 + n * 0.25)
      const found = await runQuery(pool, {
        name: 'search',
        ...both,
        parameters: { q: FREQUENT, c },
        page: { number: 1 },
      })
      expect(found.rows).toHaveLength(Math.min(PAGE, n))
    }
  })
  it('in another order, or by cursor, all matches are ranked', () => {
    expect(compiled('exact', { order: ['-publishedAt', '-relevance'] }).compiled.ranked).toBeUndefined()
    expect(compiled('exact', { pages: { size: PAGE, by: 'cursor' } }).compiled.ranked).toBeUndefined()
    // No index has this order, so the matches of the index of words are sorted.
    expect(compiled('exact', { order: ['-relevance', 'title'] }).compiled.ranked?.rowByRow).toBeUndefined()
  })
})
