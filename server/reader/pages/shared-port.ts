/** What answering a request uses of the copies that processes share. */
import type { Copy } from '../../../core/caching/store.ts'
import type { DueTime } from '../../store/content/posts.ts'

/** What was seen of the database before a page was read. */
export interface SeenState {
  /** As `pg_snapshot` prints it. */
  snapshot: string
  /** When the database was started. */
  era: string
}

export interface SharedPort {
  /** What this process has applied of the change log; undefined before it has read it. */
  readonly seen: SeenState | undefined
  /** Returns a copy that another process has made, and keeps it in this one, too. */
  take(key: string): Promise<Copy | undefined>
  /**
   * Shares a copy that this process has stored.
   * @param seen from before anything of it was read
   * @param due if it changes when a scheduled post becomes due
   */
  put(key: string, copy: Copy, seen: SeenState, due: DueTime | undefined): void
}
