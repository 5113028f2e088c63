/** The processes that keep copies, in the database: what each has seen, and how writers wait for them. */
import { setTimeout } from 'node:timers/promises'
import { LEASE_WAIT } from '../../../core/caching/lease.ts'
import type { Queryable } from '../connection.ts'

/** Records a process. It has no lease before it has read the log after that. */
export const register = (client: Queryable, id: string) =>
  client.query('INSERT INTO copy_process (id) VALUES ($1) ON CONFLICT DO NOTHING', [id])

export const unregister = (client: Queryable, id: string) =>
  client.query('DELETE FROM copy_process WHERE id = $1', [id])

/**
 * Records what a process has seen.
 * @param snapshot `pg_current_snapshot()` as it was when the log was read
 * @returns false if a writer has removed the process in the meantime, because it did not answer
 */
export async function acknowledge(client: Queryable, id: string, snapshot: string): Promise<boolean> {
  const { rowCount } = await client.query('UPDATE copy_process SET seen = $2 WHERE id = $1', [id, snapshot])
  return rowCount === 1
}

const BEHIND = `id <> $1 AND (seen IS NULL OR NOT pg_visible_in_snapshot($2::text::xid8, seen::pg_snapshot))`
const OTHERS_BEHIND = {
  name: 'copy processes behind',
  text: `SELECT id FROM copy_process WHERE ${BEHIND}`,
}

/** The first and the longest pause between two looks, in milliseconds. */
const FIRST_LOOK = 1
const LONGEST_PAUSE = 20

/**
 * Waits until no other process can serve a copy from before a committed transaction.
 * @param own the process that has made it, which has dropped its own copies
 */
export async function untilSeenByAll(pool: Queryable, own: string, transaction: string): Promise<void> {
  const committed = performance.now()
  for (let pause = FIRST_LOOK; ; pause = Math.min(LONGEST_PAUSE, pause * 2)) {
    // While the database does not answer, leases are not renewed.
    const behind = await othersBehind(pool, own, transaction).catch(() => undefined)
    if (behind?.length === 0) return
    const left = committed + LEASE_WAIT - performance.now()
    if (left <= 0) {
      if (behind) await remove(pool, own, transaction).catch(() => undefined)
      return
    }
    await setTimeout(Math.min(pause, left))
  }
}

const othersBehind = async (pool: Queryable, own: string, transaction: string): Promise<unknown[]> =>
  (await pool.query({ ...OTHERS_BEHIND, values: [own, transaction] })).rows

const remove = (pool: Queryable, own: string, transaction: string) =>
  pool.query(`DELETE FROM copy_process WHERE ${BEHIND}`, [own, transaction])
