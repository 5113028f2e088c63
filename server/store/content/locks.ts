/** Locks for writes that must see the state that the previous write left. */
import type { EntityManager } from 'typeorm'

/** Lets one transaction at a time write to a table until it ends. Readers are not blocked. */
export async function lockTable(
  manager: EntityManager,
  table: 'document' | 'page' | 'category',
): Promise<void> {
  await manager.query(`LOCK TABLE ${table} IN SHARE ROW EXCLUSIVE MODE`)
}

/** Returns the time of the transaction by the database's clock, which decides what readers see. */
export async function databaseNow(manager: EntityManager): Promise<Date> {
  const [row] = await manager.query<{ now: Date }[]>('SELECT now() AS now')
  return row?.now ?? new Date()
}
