/** Runs a statement with EXPLAIN ANALYZE, in a read-only transaction that is rolled back. */
import type { DataSource } from 'typeorm'
import { boundValues, type Binding, type Statement } from './statement.ts'

/** Default time limit in milliseconds. */
const LONGEST = 5_000

/**
 * Returns the result of `EXPLAIN (ANALYZE, BUFFERS, FORMAT JSON)`.
 * @param longest time limit in milliseconds
 */
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
