/** The contract of a store that shares copies of pages between processes. Each process also has its own store. */
import type { Copy } from './store.ts'

/** A copy of a page, with everything that another process needs to decide whether it is still fresh. */
export interface SharedCopy {
  /** Its times are milliseconds since it was stored. */
  copy: Copy
  /** The snapshot of the database before the copy was rendered (`pg_snapshot`). */
  snapshot: string
  /** The start time of the database server. */
  era: string
  /**
   * The publication time of the next scheduled post, by the database's clock; null if none is scheduled, undefined if the
   * copy does not depend on time.
   */
  due: string | null | undefined
}

export interface SharedCopies {
  /** Returns a copy and its age, in milliseconds. */
  take(key: string): Promise<{ shared: SharedCopy; age: number } | undefined>
  /**
   * Stores a copy.
   * @param lifetime after which it is deleted, in milliseconds
   * @returns whether it was stored
   */
  put(key: string, shared: SharedCopy, lifetime: number): Promise<boolean>
  drop(key: string): Promise<void>
  clear(): Promise<void>
  close(): Promise<void>
  /** Whether the last call succeeded. */
  readonly isAvailable: boolean
}

const shifted = (copy: Copy, by: number): Copy => ({
  ...copy,
  madeAt: copy.madeAt + by,
  agesAt: copy.agesAt + by,
  expiresAt: copy.expiresAt + by,
  staleUntil: copy.staleUntil + by,
  wrongAt: copy.wrongAt + by,
})

/** Converts the times of a copy to milliseconds since now. @param now by the clock of the process */
export function toShare(copy: Copy, now: number): Copy {
  const { formBytes: _, answer, ...rest } = shifted(copy, -now)
  return { ...rest, ...(answer ? { answer: { ...answer, uses: 0 } } : {}) }
}

/** Converts the times of a shared copy to the clock of the process. @param storedAt by that clock */
export const fromShared = (copy: Copy, storedAt: number): Copy => shifted(copy, storedAt)
