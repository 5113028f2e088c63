/** Addresses that were answered with 404, and how often. They are stored in batches. */
import type { Queryable } from '../../store/connection.ts'
import {
  addNotFound,
  deleteNotFound,
  listNotFound,
  type NotFoundAddress,
} from '../../store/content/not-found.ts'

/** The maximum time from a request until it is stored, in milliseconds. */
const FLUSH_MILLISECONDS = 5_000
/** The maximum number of addresses between two writes. More are ignored. */
const PENDING_LIMIT = 500
/** The maximum length of a path, in characters. */
const PATH_LIMIT = 500

export class NotFoundAddresses {
  readonly #pool: Queryable
  #pending = new Map<string, number>()
  #timer: NodeJS.Timeout | undefined

  constructor(pool: Queryable) {
    this.#pool = pool
  }

  /** @param path without the query string, which may have personal data */
  add(path: string): void {
    if (path.length > PATH_LIMIT || !path.isWellFormed() || path.includes('\0')) return
    const times = this.#pending.get(path)
    if (times === undefined && this.#pending.size >= PENDING_LIMIT) return
    this.#pending.set(path, (times ?? 0) + 1)
    this.#timer ??= setTimeout(() => void this.flush().catch(() => undefined), FLUSH_MILLISECONDS).unref()
  }

  /** Stores what is pending. If the database is unavailable, it stays pending. */
  async flush(): Promise<void> {
    clearTimeout(this.#timer)
    this.#timer = undefined
    if (this.#pending.size === 0) return
    const pending = this.#pending
    this.#pending = new Map()
    try {
      await addNotFound(this.#pool, pending)
    } catch (error) {
      for (const [path, times] of pending)
        if (this.#pending.size < PENDING_LIMIT)
          this.#pending.set(path, (this.#pending.get(path) ?? 0) + times)
      throw error
    }
  }

  /** Lists addresses, the most frequent first. */
  async list(limit: number): Promise<NotFoundAddress[]> {
    await this.flush()
    return await listNotFound(this.#pool, limit)
  }

  /** Deletes an address, because it is answered now or is of no interest. */
  async delete(path: string): Promise<void> {
    this.#pending.delete(path)
    await deleteNotFound(this.#pool, path)
  }
}
