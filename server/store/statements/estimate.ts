/** Estimates how many rows a query has from PostgreSQL's statistics, where counting them all would take too long. */
import { roundedEstimate } from '../../../core/paging/numbered.ts'
import { idsWithin } from './sql.ts'
import type { CompiledQuery } from './compile-query.ts'
import type { Queryable } from '../connection.ts'
import { boundValue, type Binding, type Slot, type Statement } from './statement.ts'

/** An estimate that exceeds the bound by this factor is used without counting up to the bound. */
const CERTAIN = 2

/**
 * Returns the number of rows: counted up to the bound; above it, an estimate rounded to two digits.
 * @param run runs a statement and records it
 */
export async function estimatedTotal(
  pool: Queryable,
  { explained, bounded, bound }: NonNullable<CompiledQuery['estimate']>,
  binding: Binding,
  run: (statement: Statement) => Promise<Record<string, unknown>[]>,
): Promise<{ total: number; isEstimated: boolean }> {
  const expected = await expectedRows(pool, explained, binding)
  if (expected < CERTAIN * bound) {
    const [row] = await run(bounded)
    const counted = Number(row?.['total'] ?? 0)
    if (counted <= bound) return { total: counted, isEstimated: false }
  }
  return { total: roundedEstimate(Math.max(expected, bound)), isEstimated: true }
}

/** Returns the planner's estimate for the given values (PostgreSQL manual, “Row Estimation Examples”). */
export async function expectedRows(pool: Queryable, statement: Statement, binding: Binding): Promise<number> {
  const ids = new Map<Slot, string>()
  for (const slot of statement.slots) {
    if (slot.kind !== 'related-id' && slot.kind !== 'ids-within') continue
    const isOne = slot.kind === 'related-id'
    const { rows } = await pool.query<{ id: number }>(
      isOne ? `SELECT id FROM ${slot.table} WHERE ${slot.column} = $1` : idsWithin('$1'),
      [boundValue(slot.value, binding)],
    )
    const found = rows.map((row) => Number(row.id))
    ids.set(slot, isOne ? String(found[0] ?? 0) : `'{${found.join()}}'::int[]`)
  }
  // Ids are written into the text: a plan for any id would know nothing about this one.
  const kept: Slot[] = []
  const sql = statement.sql.replace(/\$(\d+)/g, (_whole: string, number: string) => {
    const slot = statement.slots[Number(number) - 1]
    if (!slot) throw new Error(`No value for $${number}`)
    const id = ids.get(slot)
    if (id !== undefined) return id
    kept.push(slot)
    return `$${kept.length}`
  })
  const { rows } = await pool.query<{ 'QUERY PLAN': { Plan: { 'Plan Rows': number } }[] }>(
    `EXPLAIN (FORMAT JSON) ${sql}`,
    kept.map((slot) => boundValue(slot, binding)),
  )
  return rows[0]?.['QUERY PLAN'][0]?.Plan['Plan Rows'] ?? 0
}
