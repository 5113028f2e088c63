/** Narrow ports, through which functions reach what they use. The running blog provides all of them. */
import type { DataSource } from 'typeorm'
import type { DroppedCopy } from '../../core/caching/store.ts'
import type { SourceName } from '../../core/shapes/schemas.ts'
import type { Queryable } from '../store/connection.ts'
import type { Store } from '../store/store.ts'
import type { Site } from './site.ts'

/** Runs readers' queries. */
export interface PoolPort {
  readonly pool: Queryable
}

export interface DatabasePort {
  readonly database: DataSource
}

/** Runs writes. */
export interface StorePort {
  readonly store: Store
}

/** The definition in force. */
export interface SitePort {
  readonly site: Site
}

/** Activates a definition. */
export interface PublishPort {
  replaceSite(site: Site): DroppedCopy[]
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

export interface CursorKeyPort {
  /** The key that signs cursors. */
  readonly cursorKey: Uint8Array
}

/** Reports what has changed: rows of a source, or the definition. */
export interface ChangePort {
  /** @returns a function that ends the watch */
  watchChanges(tell: (what: SourceName | 'definition') => void): () => void
}
