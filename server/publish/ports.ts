/** Narrow ports, through which functions reach what they use. The running blog provides all of them. */
import type { DataSource } from 'typeorm'
import type { DroppedCopy } from '../../core/caching/store.ts'
import type { Problem } from '../../core/shapes/problem.ts'
import type { SourceName } from '../../core/shapes/schemas.ts'
import type { Queryable } from '../store/connection.ts'
import type { Store, Writes } from '../store/store.ts'
import type { Site } from './site.ts'
import type { Documents } from './trials.ts'

/** Runs readers' queries. */
export interface PoolPort {
  readonly pool: Queryable
}

export interface SearchPort {
  /** Runs searches: few at a time, each for a short time, so that they cannot take the database from other readers. */
  readonly searchPool: Queryable
}

export interface DatabasePort {
  readonly database: DataSource
}

/** Runs writes. */
export interface StorePort {
  readonly store: Store
}

/** Runs the writes of readers. A rehearsal provides its own, which are rolled back. */
export interface WritePort {
  readonly store: Writes
}

/** The definition in force. */
export interface SitePort {
  readonly site: Site
}

/** What happens to a definition that is saved. */
export interface Publishing {
  /** Tries a definition before it counts. @returns its problems, and the addresses that would fail with it */
  tryOut(documents: Documents, current: Documents): Promise<Problem[]>
  /** Activates a definition after the commit. @returns the copies that are dropped */
  activate(site: Site): DroppedCopy[]
}

/** Tries and activates definitions. */
export interface PublishPort {
  /** @param insist to save a definition even if an address would fail with it */
  publishing(insist?: boolean): Publishing
  /** Returns the problems of a definition, without rendering anything. */
  problemsOf(documents: Documents): Promise<Problem[]>
}

export interface ClockPort {
  readonly clock: () => Date
}

export interface Log {
  info(details: object, message: string): void
  error(details: object, message: string): void
}

export interface LogPort {
  readonly log: Log
}

export interface OriginsPort {
  /** Under which the blog listens, e.g. `http://127.0.0.1:4311`. */
  readonly origins: readonly string[]
}

export interface CommentServicePort {
  /** The origin of the built-in comment service; null where it is not running. */
  readonly commentService: string | null
}

export interface CursorKeyPort {
  /** The key that signs what readers send back. */
  readonly cursorKey: Uint8Array
}

/** Reports what has changed: rows of a source, or the definition. */
export interface ChangePort {
  /** @returns a function that ends the watch */
  watchChanges(tell: (what: SourceName | 'definition') => void): () => void
}
