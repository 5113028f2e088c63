// How long writers wait while the database does not answer.
import { expect, it } from 'vitest'
import { LEASE_WAIT, PURGE_WAIT } from '../../../core/caching/lease.ts'
import type { Queryable } from '../connection.ts'
import { untilSeenByAll } from './copy-processes.ts'

/** A database that answers the first looks, and none after them. */
function losing(...waits: number[]): Queryable {
  const query = () => {
    const wait = waits.shift()
    return wait === undefined ? Promise.reject(new Error('refused')) : Promise.resolve({ rows: [{ wait }] })
  }
  return { query } as unknown as Queryable
}
const waited = async (pool: Queryable, caches: boolean) => {
  const start = performance.now()
  await untilSeenByAll(pool, 'own', '1', caches)
  // Timers may fire a millisecond early.
  return performance.now() - start + 1
}

it('a writer waits for a purger as long as it was told to, also if the database does not answer any more', async () => {
  const told = LEASE_WAIT + 300
  expect(await waited(losing(told), true)).toBeGreaterThanOrEqual(told)
})

it('a writer that could not ask waits for a purger that there may be', { timeout: 10_000 }, async () => {
  expect(await waited(losing(), true)).toBeGreaterThanOrEqual(PURGE_WAIT)
})

it('a writer waits for processes until their leases have ended', async () => {
  expect(await waited(losing(), false)).toBeGreaterThanOrEqual(LEASE_WAIT)
  const start = performance.now()
  await untilSeenByAll(losing(0), 'own', '1')
  expect(performance.now() - start).toBeLessThan(LEASE_WAIT)
})
