/** The narrow ports through which functions of the server reach what they use. The running blog provides all of them. */
import type { DataSource } from 'typeorm'
import type { Queryable } from '../store/connection.ts'
import type { Site } from './site.ts'

export interface PoolPort {
  readonly pool: Queryable
}

export interface DatabasePort {
  readonly database: DataSource
}

/** The definition in force. */
export interface SitePort {
  readonly site: Site
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
