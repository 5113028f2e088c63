/** The contract of a store of page copies that several processes share, beside each one's own. */
import type { Copy } from './store.ts'

/** A copy of a page, with what another process needs to decide whether it is still right. */
export interface SharedCopy {
  /** Its times are milliseconds from when it was put. */
  copy: Copy
  /** What of the database was seen before the copy was made, as `pg_snapshot` prints it. */
  snapshot: string
  /** When the database was started. */
  era: string
  /**
   * When the next scheduled post was due, by the database's clock; null if none was scheduled, undefined if the copy does
   * not depend on that.
   */
  due: string | null | undefined
}

export interface SharedCopies {
  /** Returns a copy, and how long ago it was put, in milliseconds. */
  take(key: string): Promise<{ shared: SharedCopy; age: number } | undefined>
  /** @param lifetime how long it may be of use, in milliseconds */
  put(key: string, shared: SharedCopy, lifetime: number): Promise<void>
  drop(key: string): Promise<void>
  clear(): Promise<void>
  close(): Promise<void>
  /** Whether it answers, as far as is known. */
  readonly isThere: boolean
}

const shifted = (copy: Copy, by: number): Copy => ({
  ...copy,
  madeAt: copy.madeAt + by,
  agesAt: copy.agesAt + by,
  expiresAt: copy.expiresAt + by,
  staleUntil: copy.staleUntil + by,
  wrongAt: copy.wrongAt + by,
})

/** Returns a copy with times from now on. @param now in milliseconds of the clock of its times */
export function toShare(copy: Copy, now: number): Copy {
  const { formBytes: _, answer, ...rest } = shifted(copy, -now)
  return { ...rest, ...(answer ? { answer: { ...answer, uses: 0 } } : {}) }
}

/** Returns a copy with times of the clock of a process. @param putAt when it was put, in milliseconds of that clock */
export const fromShared = (copy: Copy, putAt: number): Copy => shifted(copy, putAt)
