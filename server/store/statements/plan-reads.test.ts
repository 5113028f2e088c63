// What a plan reads is all that its statements read: PostgreSQL notes for every view the columns that it depends on
// (PostgreSQL 15 docs, “pg_depend”), and each of them must be known to the plan.
import fc from 'fast-check'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { readMeaning } from '../../../core/queries/meaning.ts'
import { keyOfRelation, type PlanReads } from '../../../core/queries/plan-reads.ts'
import { SOURCE, TABLE } from '../../../core/queries/sources.ts'
import type { Query, SourceName } from '../../../core/shapes/schemas.ts'
import { testBlog, type TestBlog } from '../../testing/database.ts'
import { randomQuery } from '../../testing/random-definition.ts'
import { compileQuery } from './compile-query.ts'

let test: TestBlog
beforeAll(async () => (test = await testBlog()))
afterAll(() => test.close())

const columnOf = (field: string) => field.replace(/[A-Z]/g, (letter) => `_${letter.toLowerCase()}`)

/** Returns the columns that PostgreSQL says a statement reads, e.g. `post.title`. */
async function columnsOf(sql: string): Promise<string[]> {
  const runner = test.database.createQueryRunner()
  await runner.startTransaction()
  try {
    await runner.query(`CREATE VIEW probe AS ${sql.replace(/\$\d+/g, 'NULL')}`)
    const rows = (await runner.query(
      `SELECT DISTINCT used.relname || '.' || attname AS name FROM pg_depend depends
       JOIN pg_rewrite ON pg_rewrite.oid = depends.objid JOIN pg_class view ON view.oid = pg_rewrite.ev_class
       JOIN pg_class used ON used.oid = depends.refobjid
       JOIN pg_attribute ON attrelid = depends.refobjid AND attnum = depends.refobjsubid
       WHERE view.relname = 'probe' AND depends.refobjsubid > 0`,
    )) as { name: string }[]
    return rows.map((one) => one.name)
  } finally {
    await runner.rollbackTransaction()
    await runner.release()
  }
}

/** Returns the columns that a plan knows of. The id of a row never changes. */
function knownColumns({ source, deciding, shown }: PlanReads): Set<string> {
  const known = new Set<string>(Object.values(TABLE).map((table) => `${table}.id`))
  const add = (of: SourceName | 'images', field: string) =>
    field === 'tags'
      ? ['post_tag.post_id', 'post_tag.tag_id'].forEach((one) => known.add(one))
      : known.add(`${TABLE[of]}.${columnOf(field)}`)
  for (const { own, related, counts } of [deciding, shown]) {
    for (const field of own) add(source, field)
    for (const [relation, fields] of related)
      for (const field of fields) add(SOURCE[source].relations[relation]?.source ?? 'images', field)
    for (const name of counts) {
      const count = SOURCE[source].counts[name]
      if (!count) continue
      if (count.tally !== undefined)
        for (const column of [`${count.by}_id`, 'shown']) known.add(`${count.tally}.${column}`)
      add(count.source, keyOfRelation(count.source, count.by))
      for (const field of SOURCE[count.source].conditions[count.named]?.fields ?? []) add(count.source, field)
      if (count.within) add(source, 'parentId')
    }
  }
  return known
}

async function unknownColumns(query: Query): Promise<string[]> {
  const read = readMeaning(query)
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  const compiled = compileQuery(test.database, read.meaning, 'reader', test.blog.site.definition)
  const known = knownColumns(compiled.reads)
  const statements = [compiled.items, ...(compiled.total ? [compiled.total] : [])]
  const used = new Set((await Promise.all(statements.map((one) => columnsOf(one.sql)))).flat())
  expect(used.size).toBeGreaterThan(0)
  return [...used].filter((one) => !known.has(one))
}

it(
  'every column that a statement reads is known to the plan of its query',
  { timeout: 120_000 },
  async () => {
    await fc.assert(
      fc.asyncProperty(randomQuery, async (query) => {
        expect(await unknownColumns(query)).toEqual([])
      }),
      { numRuns: 250 },
    )
  },
)

it('so is every column of the demo’s queries', async () => {
  for (const { meaning, compiled } of test.blog.site.queries.values()) {
    const known = knownColumns(compiled.reader.reads)
    const used = await columnsOf(compiled.reader.items.sql)
    expect(
      used.filter((one) => !known.has(one)),
      meaning.from,
    ).toEqual([])
  }
})
