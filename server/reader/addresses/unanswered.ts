/** Addresses that readers asked for and nothing answered, and how often: kept in the database, in batches. */
import type { Queryable } from '../../store/connection.ts'

/** Written at most this long after a request. */
const FLUSH_MILLISECONDS = 5_000
/** Different addresses held between two writes; more are let go. */
const HELD = 500
/** Addresses kept in all; the ones asked for longest ago go first. */
const KEPT = 5_000
/** Longest path kept. */
const PATH_LIMIT = 500

export interface UnansweredAddress {
  path: string
  times: number
  firstAt: Date
  lastAt: Date
}

export class UnansweredAddresses {
  readonly #pool: Queryable
  #held = new Map<string, number>()
  #timer: NodeJS.Timeout | undefined

  constructor(pool: Queryable) {
    this.#pool = pool
  }

  /** @param path without its query, which may hold what is nobody's business */
  add(path: string): void {
    if (path.length > PATH_LIMIT || !path.isWellFormed() || path.includes('\0')) return
    const times = this.#held.get(path)
    if (times === undefined && this.#held.size >= HELD) return
    this.#held.set(path, (times ?? 0) + 1)
    this.#timer ??= setTimeout(() => void this.flush().catch(() => undefined), FLUSH_MILLISECONDS).unref()
  }

  /** Writes what is held. When the database is away, it is held on. */
  async flush(): Promise<void> {
    clearTimeout(this.#timer)
    this.#timer = undefined
    if (this.#held.size === 0) return
    const held = this.#held
    this.#held = new Map()
    try {
      await this.#pool.query(
        `INSERT INTO unanswered_address (path, times, first_at, last_at)
         SELECT path, times, now(), now() FROM unnest($1::text[], $2::int[]) AS held (path, times)
         ON CONFLICT (path) DO UPDATE SET times = unanswered_address.times + EXCLUDED.times, last_at = now()`,
        [[...held.keys()], [...held.values()]],
      )
      await this.#pool.query(
        `DELETE FROM unanswered_address WHERE path IN (
           SELECT path FROM unanswered_address ORDER BY last_at DESC, path OFFSET ${KEPT})`,
      )
    } catch (error) {
      for (const [path, times] of held)
        if (this.#held.size < HELD) this.#held.set(path, (this.#held.get(path) ?? 0) + times)
      throw error
    }
  }

  /** Most often asked first. */
  async list(limit: number): Promise<UnansweredAddress[]> {
    await this.flush()
    const { rows } = await this.#pool.query<{ path: string; times: number; first_at: Date; last_at: Date }>(
      'SELECT path, times, first_at, last_at FROM unanswered_address ORDER BY times DESC, last_at DESC, path LIMIT $1',
      [limit],
    )
    return rows.map((row) => ({
      path: row.path,
      times: row.times,
      firstAt: row.first_at,
      lastAt: row.last_at,
    }))
  }

  /** Forgets one: it was mended, or is of no interest. */
  async forget(path: string): Promise<void> {
    this.#held.delete(path)
    await this.#pool.query('DELETE FROM unanswered_address WHERE path = $1', [path])
  }
}
