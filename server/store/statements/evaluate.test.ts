// The same conditions on the same rows, evaluated in memory and by PostgreSQL: random nested conditions of every kind,
// with values and parameters that are present, absent or null; random rows with nulls, ties and letters of many scripts.
import fc from 'fast-check'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { OPERATORS, type Condition, type FieldCondition } from '../../../core/shapes/schemas.ts'
import { evaluate, mayHold, type EvaluatedRow } from '../../../core/queries/evaluate.ts'
import { clausesOf, givenMeaning, readMeaning } from '../../../core/queries/meaning.ts'
import { runQuery } from './run-query.ts'
import { testBlog, type TestBlog } from '../../testing/database.ts'
import { compileQuery } from './compile-query.ts'

let test: TestBlog
let rows: EvaluatedRow[] = []
const ZONE = 'Australia/Lord_Howe'
const NOW = new Date('2026-06-15T12:00:00Z')

const TITLES = [
  '',
  'a',
  'A',
  'b',
  'ä',
  'Z',
  'zebra',
  'Zebra crossing',
  'straße',
  'İstanbul',
  'ΣΊΣΥΦΟΣ',
  '雨の日',
  '😀 z',
  '\uFFFD',
  "O'Brien %_\\",
]
const TIMES = [
  null,
  '2025-12-31T13:29:59Z',
  '2025-12-31T13:30:00Z',
  '2026-01-01T00:00:00Z',
  '2026-06-15T11:59:59Z',
  '2026-06-15T12:00:00Z',
  '2026-06-15T12:00:01Z',
  '2027-04-03T15:00:00Z',
]

beforeAll(async () => {
  test = await testBlog()
  const { database } = test
  await database.query('DELETE FROM post')
  const ids = async (table: string) =>
    (
      await database.query<{ id: number; slug: string; name: string; parent_id?: number | null }[]>(
        `SELECT * FROM ${table} ORDER BY id`,
      )
    ).slice(0, 4)
  await database.query(
    `UPDATE category SET parent_id = (SELECT id FROM category WHERE slug = 'electrical') WHERE slug = 'bicycles'`,
  )
  const [categories, authors, tags] = [await ids('category'), await ids('author'), await ids('tag')]
  const one = <T>(list: readonly T[], at: number) => list[at % list.length]
  for (let at = 0; at < 60; at++) {
    const category = at % 5 === 0 ? undefined : one(categories, at * 3)
    const author = at % 7 === 0 ? undefined : one(authors, at * 5)
    const own = tags.filter((_, index) => (at >> index) % 2 === 1)
    const row = {
      id: at + 1,
      title: one(TITLES, at * 7) ?? '',
      slug: `p-${at}`,
      excerpt: one(TITLES, at * 11 + 3) ?? '',
      publishedAt: TIMES[(at * 13) % TIMES.length] ?? null,
      wordCount: (at * 17) % 9,
      commentsOpen: at % 2 === 0,
    }
    await database.query(
      `INSERT INTO post (id, title, slug, excerpt, body, html, pipeline, word_count, category_id, author_id, published_at, comments_open, updated_at)
       VALUES ($1, $2, $3, $4, '', '', '2', $5, $6, $7, $8, $9, $10)`,
      [
        row.id,
        row.title,
        row.slug,
        row.excerpt,
        row.wordCount,
        category?.id ?? null,
        author?.id ?? null,
        row.publishedAt,
        row.commentsOpen,
        NOW,
      ],
    )
    for (const tag of own) await database.query('INSERT INTO post_tag VALUES ($1, $2)', [row.id, tag.id])
    rows.push({
      ...row,
      publishedAt: row.publishedAt === null ? null : new Date(row.publishedAt),
      updatedAt: NOW,
      category: category
        ? {
            ...category,
            parent: categories.find((above) => above.id === category.parent_id) ?? null,
          }
        : null,
      author: author ?? null,
      tags: own,
    })
  }
  rows = rows.map((row) => ({ ...row }))
})
afterAll(() => test.close())

const text = fc.constantFrom(...TITLES, 'p-3', 'bicycles', 'electrical', 'wheels', 'Bicycles')
const integer = fc.integer({ min: -1, max: 9 })
const FIELDS: Record<string, fc.Arbitrary<string | number | boolean>> = {
  title: text,
  slug: text,
  excerpt: text,
  'category.slug': text,
  'category.name': text,
  'author.name': text,
  'tags.slug': text,
  'tags.name': text,
  id: integer,
  wordCount: integer,
  publishedYear: fc.constantFrom(2025, 2026, 2027),
  publishedMonth: fc.integer({ min: 1, max: 12 }),
  publishedDay: fc.integer({ min: 1, max: 31 }),
  'category.position': integer,
  publishedAt: fc.constantFrom(...TIMES.filter((one) => one !== null)),
  commentsOpen: fc.boolean(),
}
const TEXTS = new Set([
  'title',
  'slug',
  'excerpt',
  'category.slug',
  'category.name',
  'author.name',
  'tags.slug',
  'tags.name',
])

/** A condition, and what its parameters are: `undefined` is one that the address does not have. */
interface Drawn {
  condition: Condition
  parameters: Record<string, unknown>
}
let counter = 0
const field: fc.Arbitrary<Drawn> = fc
  .tuple(
    fc.constantFrom(...Object.keys(FIELDS)),
    // Only the database can evaluate a search.
    fc.constantFrom(...OPERATORS.filter((one) => one !== 'matches')),
    fc.constantFrom('value', 'parameter', 'absent', 'given', 'given-absent'),
    fc.infiniteStream(fc.nat()),
  )
  .chain(([name, is, how]) => {
    const value = FIELDS[name] ?? text
    const isAllowed = (is !== 'contains' || TEXTS.has(name)) && (is !== 'within' || name === 'category.slug')
    const operator = isAllowed ? is : 'equal'
    return fc.array(value, { minLength: 1, maxLength: 3 }).map((values): Drawn => {
      const make = (to: NonNullable<FieldCondition['to']>, more: object = {}): FieldCondition => ({
        field: name,
        is: operator,
        to: operator === 'in' && typeof to === 'string' ? [to] : to,
        ...more,
      })
      if (operator === 'set' || operator === 'unset')
        return { condition: { field: name, is: operator }, parameters: {} }
      if (how === 'value')
        return { condition: make(operator === 'in' ? values : (values[0] ?? '')), parameters: {} }
      const parameter = `p${counter++}`
      const isThere = how === 'parameter' || how === 'given'
      return {
        condition: make(`:${parameter}`, how.startsWith('given') ? { when: 'given' } : {}),
        parameters: isThere ? { [parameter]: values[0] } : {},
      }
    })
  })
const drawn: fc.Arbitrary<Drawn> = fc.letrec<{ any: Drawn }>((tie) => {
  const many = fc.array(tie('any'), { minLength: 1, maxLength: 3 })
  const joined = (list: Drawn[]) =>
    Object.assign({}, ...list.map((one) => one.parameters)) as Record<string, unknown>
  return {
    any: fc.oneof(
      { depthSize: 'small', withCrossShrink: true },
      field,
      fc.constant<Drawn>({ condition: 'published', parameters: {} }),
      many.map((list): Drawn => ({
        condition: { any: list.map((one) => one.condition) },
        parameters: joined(list),
      })),
      many.map((list): Drawn => ({
        condition: { all: list.map((one) => one.condition) },
        parameters: joined(list),
      })),
      tie('any').map(({ condition, parameters }): Drawn => ({ condition: { not: condition }, parameters })),
    ),
  }
}).any

it('10,000 random evaluations agree', async () => {
  let decided = 0
  let kept = 0
  await fc.assert(
    fc.asyncProperty(fc.array(drawn, { minLength: 1, maxLength: 3 }), async (list) => {
      const parameters = Object.assign({}, ...list.map((one) => one.parameters)) as Record<string, unknown>
      const read = readMeaning({
        from: 'posts',
        where: list.map((one) => one.condition),
        order: ['id'],
        take: 'all',
      })
      if (!read.ok) throw new Error(JSON.stringify(read.problems))
      const meaning = givenMeaning(read.meaning, parameters)
      const compiled = compileQuery(test.database, meaning, 'reader', {
        timeZone: ZONE,
        searchConfiguration: 'simple',
      })
      // The database's clock differs from a fixed one, so the time is part of the statement.
      const items = {
        ...compiled.items,
        sql: compiled.items.sql.replaceAll('now()', `timestamptz '${NOW.toISOString()}'`),
      }
      const result = await runQuery(test.blog.pool, {
        name: 'random',
        meaning,
        compiled: { ...compiled, items, many: [] },
        parameters,
      })
      const theirs = result.rows.map((row) => Number(row['id']))
      const ours = rows
        .filter((row) =>
          clausesOf(meaning).every(
            (clause) => evaluate('posts', clause, row, { parameters, now: NOW, timeZone: ZONE }) === true,
          ),
        )
        .map((row) => Number(row['id']))
      expect(ours).toEqual(theirs)
      decided += rows.length
      kept += theirs.length
    }),
    { numRuns: 400, endOnFailure: false },
  )
  expect(decided).toBeGreaterThan(10_000)
  // Conditions that match nothing, or everything, would prove little.
  expect(kept / decided).toBeGreaterThan(0.05)
  expect(kept / decided).toBeLessThan(0.95)
})

it('a clause that holds on a whole row may hold on every part of it', () => {
  const circumstances = (parameters: Record<string, unknown>) => ({ parameters, now: NOW, timeZone: ZONE })
  let holding = 0
  let excluded = 0
  fc.assert(
    fc.property(
      drawn,
      fc.nat(),
      fc.infiniteStream(fc.boolean()),
      ({ condition, parameters }, at, isKnown) => {
        const row = rows[at % rows.length] ?? {}
        const part = Object.fromEntries(Object.entries(row).filter(() => isKnown.next().value))
        const read = readMeaning({ from: 'posts', where: [condition], order: ['id'], take: 'all' })
        if (!read.ok) throw new Error(JSON.stringify(read.problems))
        for (const clause of clausesOf(givenMeaning(read.meaning, parameters))) {
          const isTrue = evaluate('posts', clause, row, circumstances(parameters)) === true
          const isPossible = mayHold('posts', clause, part, circumstances(parameters))
          if (isTrue) expect(isPossible).toBe(true)
          holding += Number(isTrue)
          excluded += Number(!isPossible)
        }
      },
    ),
    { numRuns: 3_000 },
  )
  // A “may hold” that is always true would prove nothing.
  expect(holding).toBeGreaterThan(300)
  expect(excluded).toBeGreaterThan(300)
})
