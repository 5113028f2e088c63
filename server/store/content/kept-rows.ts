/** Rows as JSON: read before they are deleted together, and inserted again as they were. */
import type { EntityManager } from 'typeorm'
import { SLUG_KINDS, type SlugKind } from '../../../core/shapes/content-kinds.ts'

export type KeptTable =
  'post' | 'post_tag' | 'comment' | 'page' | 'category' | 'tag' | 'author' | 'image' | 'former_slug'

/** A row as JSON, by the names of its columns. */
export type KeptRow = Record<string, unknown>

/** Selects the rows of a table in which a column has one of the values. */
export interface RowSelection {
  table: KeptTable
  column: string
  values: readonly number[]
}

export async function readRows(
  manager: EntityManager,
  { table, column, values }: RowSelection,
): Promise<unknown> {
  const [found] = await manager.query<{ rows: unknown }[]>(
    `SELECT coalesce(jsonb_agg(kept.*), '[]') AS rows FROM ${table} kept WHERE kept.${column} = ANY($1)`,
    [values],
  )
  return found?.rows ?? []
}

export async function deleteRows(
  manager: EntityManager,
  { table, column, values }: RowSelection,
): Promise<void> {
  await manager.query(`DELETE FROM ${table} WHERE ${column} = ANY($1)`, [values])
}

/** Inserts rows with their ids. A former slug that another row has taken in the meantime is returned to its owner. */
export async function insertRows(
  manager: EntityManager,
  table: KeptTable,
  rows: readonly KeptRow[],
): Promise<void> {
  const owner = (kind: SlugKind) => `${kind}_id = EXCLUDED.${kind}_id`
  const onConflict =
    table === 'former_slug'
      ? `ON CONFLICT (kind, slug) DO UPDATE SET ${SLUG_KINDS.map(owner).join(', ')}`
      : ''
  await manager.query(
    `INSERT INTO ${table} SELECT kept.* FROM jsonb_populate_recordset(NULL::${table}, $1::jsonb) AS kept ${onConflict}`,
    [JSON.stringify(rows)],
  )
}

/** Returns those ids that exist in a table. */
export async function existingIds(
  manager: EntityManager,
  table: KeptTable,
  ids: readonly unknown[],
): Promise<Set<unknown>> {
  const known = await manager.query<{ id: number }[]>(`SELECT id FROM ${table} WHERE id = ANY($1)`, [ids])
  return new Set<unknown>(known.map((one) => one.id))
}

/** Deletes what was deleted longer ago than the given number of days. */
export async function purgeDeletedRows(manager: EntityManager, days: number): Promise<void> {
  await manager.query(`DELETE FROM deleted_row WHERE deleted_at < now() - make_interval(days => $1)`, [days])
}
