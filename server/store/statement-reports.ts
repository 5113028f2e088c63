/** Reports the statements that a write runs through TypeORM to whoever observes it. */
import type { Pool } from 'pg'
import { EventSubscriber, type EntityManager, type EntitySubscriberInterface } from 'typeorm'
import type { AfterQueryEvent } from 'typeorm/subscriber/event/QueryEvent.js'

/** The run of one statement, for the walk. */
export interface StatementRun {
  sql: string
  values: unknown[]
  rows: number
  milliseconds: number
}

/** Receives each statement after it has run. */
export type ObserveWrite = (statement: StatementRun) => void

/** Observers of the transaction that a query runner has open. */
const observers = new WeakMap<object, ObserveWrite>()

/** Reports every statement of a transaction. @returns a function that ends it */
export function observeStatements({ queryRunner }: EntityManager, observe: ObserveWrite): () => void {
  if (!queryRunner) throw new Error('Only statements of a transaction can be observed.')
  observers.set(queryRunner, observe)
  return () => observers.delete(queryRunner)
}

/** Returns a connection that reports each statement. */
export const observedPool = (pool: Pick<Pool, 'query'>, observe: ObserveWrite): Pick<Pool, 'query'> => ({
  query: (async (config: { text: string; values?: unknown[] }) => {
    const began = performance.now()
    const result = await pool.query(config)
    const { text, values = [] } = config
    observe({ sql: text, values, rows: result.rowCount ?? 0, milliseconds: performance.now() - began })
    return result
  }) as Pool['query'],
})

@EventSubscriber()
export class StatementReports implements EntitySubscriberInterface {
  afterQuery({ queryRunner, query, parameters, rawResults, executionTime }: AfterQueryEvent): void {
    const observe = observers.get(queryRunner)
    // The transaction's own statements change nothing.
    if (!observe || /^(START|SAVEPOINT|RELEASE|ROLLBACK|COMMIT)\b/.test(query)) return
    observe({
      sql: query,
      values: Array.isArray(parameters) ? parameters : [],
      rows: rowsOf(rawResults),
      milliseconds: executionTime ?? 0,
    })
  }
}

/** Returns the number of rows of a result of the `pg` driver. */
const rowsOf = (result: unknown): number =>
  typeof result === 'object' && result !== null && 'rowCount' in result && typeof result.rowCount === 'number'
    ? result.rowCount
    : 0
