/** How PostgreSQL runs a statement: it is run for real, in a transaction that cannot write and is taken back. */
import type { DataSource } from 'typeorm'
import { boundValues, type Binding, type Statement } from './statement.ts'

/** Longest time it may take, in milliseconds. */
const LONGEST = 5_000

/** @param longest time it may take, in milliseconds @returns the answer of `EXPLAIN (ANALYZE, BUFFERS, FORMAT JSON)` */
export async function explain(
  database: DataSource,
  statement: Statement,
  binding: Binding,
  longest = LONGEST,
): Promise<unknown> {
  const runner = database.createQueryRunner()
  try {
    await runner.startTransaction()
    await runner.query('SET TRANSACTION READ ONLY')
    await runner.query(`SET LOCAL statement_timeout = ${longest}`)
    const [row] = (await runner.query(
      `EXPLAIN (ANALYZE, BUFFERS, FORMAT JSON) ${statement.sql}`,
      boundValues(statement, binding),
    )) as { 'QUERY PLAN': unknown }[]
    return row?.['QUERY PLAN']
  } finally {
    if (runner.isTransactionActive) await runner.rollbackTransaction()
    await runner.release()
  }
}
