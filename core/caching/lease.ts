/**
 * Leases: once a write is acknowledged, no process serves a copy from before it.
 *
 * A process uses copies only while it holds a lease. It gets one by reading the change log, dropping what the changes
 * affect, and recording in the database what it has seen. The lease runs from before the log was read. A writer commits,
 * and waits until every recorded process has seen the commit, or for as long as a lease that was granted before the commit
 * can last; then it removes those that have not seen it, which must register again.
 *
 * What this relies on: time passes at nearly the same rate in all processes, as `WAIT` is longer than `VALID` by half; a
 * snapshot that is taken after a commit has returned contains it; and a process whose clocks disagree takes its lease as
 * expired. Clocks are never compared between processes. `lease-model.test.ts` explores the protocol exhaustively.
 */

/** How long a lease lasts from before the log was read, in milliseconds. */
export const LEASE_VALID = 1_000
/** How long a writer waits for processes that do not answer, in milliseconds. */
export const LEASE_WAIT = 1_500
/**
 * How long a writer waits for the purger of an edge cache, in milliseconds: for the lease of a process that does not respond,
 * and two purge requests. What is at the edge has no lease that ends by itself.
 */
export const PURGE_WAIT = LEASE_WAIT + 2_500
/** By how much two clocks of a process may disagree, in milliseconds. More means that it was suspended, or its clock set. */
const CLOCKS_AGREE = 250

/** The clocks of a process at one moment, in milliseconds: one that is never set, and the time of day. */
export interface Moment {
  steady: number
  day: number
}

/** Decides whether a lease is valid now. @param from the moment before the log was read */
export function isLeaseValid(from: Moment | undefined, now: Moment): boolean {
  if (!from) return false
  const passed = now.steady - from.steady
  return passed >= 0 && passed < LEASE_VALID && !clocksDisagree(from, now)
}

/** Whether the time of day has passed faster or slower than time: the process was suspended, or its clock was set. */
export const clocksDisagree = (from: Moment, now: Moment): boolean =>
  Math.abs(now.day - from.day - (now.steady - from.steady)) > CLOCKS_AGREE
