/** The table of addresses that were answered with 404. */
import type { Queryable } from '../connection.ts'

/** The maximum number of stored addresses. Those requested longest ago are deleted first. */
const LIMIT = 5_000

export interface NotFoundAddress {
  path: string
  times: number
  firstAt: Date
  lastAt: Date
}

/** @param times how often each path was requested */
export async function addNotFound(pool: Queryable, times: ReadonlyMap<string, number>): Promise<void> {
  await pool.query(
    `INSERT INTO not_found_address (path, times, first_at, last_at)
     SELECT path, times, now(), now() FROM unnest($1::text[], $2::int[]) AS pending (path, times)
     ON CONFLICT (path) DO UPDATE SET times = not_found_address.times + EXCLUDED.times, last_at = now()`,
    [[...times.keys()], [...times.values()]],
  )
  await pool.query(
    `DELETE FROM not_found_address WHERE path IN (
       SELECT path FROM not_found_address ORDER BY last_at DESC, path OFFSET ${LIMIT})`,
  )
}

/** Lists addresses, the most frequent first. */
export async function listNotFound(pool: Queryable, limit: number): Promise<NotFoundAddress[]> {
  const { rows } = await pool.query<NotFoundAddress>(
    `SELECT path, times, first_at AS "firstAt", last_at AS "lastAt" FROM not_found_address
     ORDER BY times DESC, last_at DESC, path LIMIT $1`,
    [limit],
  )
  return rows
}

export async function deleteNotFound(pool: Queryable, path: string): Promise<void> {
  await pool.query('DELETE FROM not_found_address WHERE path = $1', [path])
}
