/** The port for shared copies. */
import type { Copy } from '../../../core/caching/store.ts'
import type { DueTime } from '../../store/content/posts.ts'

/** The state of the database before a page was read. */
export interface SeenState {
  /** A `pg_snapshot`. */
  snapshot: string
  /** The start time of the database server. */
  era: string
}

export interface SharedPort {
  /** The state whose changes this process has applied; undefined before the first reading. */
  readonly seen: SeenState | undefined
  /** Returns a copy that another process has rendered, and stores it in this process. */
  take(key: string): Promise<Copy | undefined>
  /**
   * Shares a copy that this process has stored.
   * @param seen the state before anything of it was read
   * @param due if it depends on time
   */
  put(key: string, copy: Copy, seen: SeenState, due: DueTime | undefined): void
}
