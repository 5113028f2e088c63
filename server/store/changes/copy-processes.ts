/** The processes that keep copies, in the database: what each has seen, and how writers wait for them. */
import { setTimeout } from 'node:timers/promises'
import { LEASE_WAIT, PURGE_WAIT } from '../../../core/caching/lease.ts'
import type { Queryable } from '../connection.ts'

/**
 * Records a process. It has no lease before it has read the log after that.
 * @param patience of the purger of an edge cache, which has no lease: how long writers wait for it, in milliseconds
 */
export const register = (client: Queryable, id: string, patience: number | null = null) =>
  client.query('INSERT INTO copy_process (id, patience) VALUES ($1, $2) ON CONFLICT DO NOTHING', [
    id,
    patience,
  ])

export const unregister = (client: Queryable, id: string) =>
  client.query('DELETE FROM copy_process WHERE id = $1', [id])

/**
 * Records what a process has seen.
 * @param snapshot `pg_current_snapshot()` as it was when the log was read
 * @returns false if a writer has removed the process in the meantime, because it did not answer
 */
export async function acknowledge(client: Queryable, id: string, snapshot: string): Promise<boolean> {
  const { rowCount } = await client.query(
    'UPDATE copy_process SET seen = $2, seen_at = clock_timestamp() WHERE id = $1',
    [id, snapshot],
  )
  return rowCount === 1
}

const BEHIND = `id <> $1 AND (seen IS NULL OR NOT pg_visible_in_snapshot($2::text::xid8, seen::pg_snapshot))`
const OTHERS_BEHIND = {
  name: 'copy processes behind',
  text: `SELECT coalesce(max(patience), $3) AS wait FROM copy_process WHERE ${BEHIND} AND ($4 OR patience IS NULL) HAVING count(*) > 0`,
}

/** The first and the longest pause between two looks, in milliseconds. */
const FIRST_LOOK = 1
const LONGEST_PAUSE = 20

/**
 * Waits until no other process, and no edge cache, can serve a copy from before a committed transaction.
 * @param own the process that has made it, which has dropped its own copies
 * @param purgers whether to wait for purgers of edge caches, too
 */
export async function untilSeenByAll(
  pool: Queryable,
  own: string,
  transaction: string,
  caches = true,
): Promise<void> {
  const committed = performance.now()
  // Before the first look, there may be a purger.
  let longest = caches ? PURGE_WAIT : LEASE_WAIT
  for (let pause = FIRST_LOOK; ; pause = Math.min(LONGEST_PAUSE, pause * 2)) {
    // While the database does not answer, leases are not renewed, but nothing is purged either.
    const wait = await waitForOthers(pool, own, transaction, caches).catch(() => undefined)
    if (wait === 0) return
    longest = wait ?? longest
    const left = committed + longest - performance.now()
    if (left <= 0) {
      if (wait !== undefined) await remove(pool, own, transaction, caches).catch(() => undefined)
      return
    }
    await setTimeout(Math.min(pause, left))
  }
}

/** Returns how long to wait for processes that are behind, in milliseconds; 0 if none is. */
async function waitForOthers(
  pool: Queryable,
  own: string,
  transaction: string,
  caches: boolean,
): Promise<number> {
  const { rows } = await pool.query<{ wait: number }>({
    ...OTHERS_BEHIND,
    values: [own, transaction, LEASE_WAIT, caches],
  })
  return rows[0]?.wait ?? 0
}

const remove = (pool: Queryable, own: string, transaction: string, caches: boolean) =>
  pool.query(`DELETE FROM copy_process WHERE ${BEHIND} AND ($3 OR patience IS NULL)`, [
    own,
    transaction,
    caches,
  ])
