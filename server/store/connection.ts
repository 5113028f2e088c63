/** Opens the database: entities, migrations, pool. */
import 'reflect-metadata'
import { DataSource } from 'typeorm'
import type { Pool } from 'pg'
import {
  AuthorEntity,
  CategoryEntity,
  CommentEntity,
  ImageEntity,
  PageEntity,
  PostEntity,
  TagEntity,
} from './entities/content.ts'
import { DocumentEntity, SettingEntity } from './entities/definition.ts'
import {
  DeletedRowEntity,
  FormerSlugEntity,
  MeasurementEntity,
  SetAsideEntity,
  UnansweredAddressEntity,
} from './entities/history.ts'
import { FirstTables1764000000000 } from './migrations/first-tables.ts'
import { ContentInOrder1764300000000 } from './migrations/content-in-order.ts'
import { Measurements1764500000000 } from './migrations/measurements.ts'
import { PostSearchAndBin1764200000000 } from './migrations/post-search-and-bin.ts'
import { PostSearchWords1764400000000 } from './migrations/post-search-words.ts'
import { SlugHistory1764100000000 } from './migrations/slug-history.ts'

/** What runs statements: a pool, or one connection of it. */
export type Queryable = Pick<Pool, 'query'>

const ENTITIES = [
  AuthorEntity,
  CategoryEntity,
  CommentEntity,
  DeletedRowEntity,
  DocumentEntity,
  FormerSlugEntity,
  ImageEntity,
  MeasurementEntity,
  PageEntity,
  PostEntity,
  SetAsideEntity,
  SettingEntity,
  TagEntity,
  UnansweredAddressEntity,
]

/** Longest time a statement may take, in milliseconds. */
const STATEMENT_TIMEOUT = 5_000

/** Longest time until a connection stands, in milliseconds. */
const CONNECT_TIMEOUT = 3_000

/** The longest time for a statement of a migration: of a large blog, words and indexes take their time. */
const MIGRATION_TIMEOUT = 3_600_000

/** @param longest time a statement may take, in milliseconds */
export function makeDataSource(url: string, { longest = STATEMENT_TIMEOUT } = {}): DataSource {
  return new DataSource({
    type: 'postgres',
    url,
    entities: ENTITIES,
    migrations: [
      FirstTables1764000000000,
      SlugHistory1764100000000,
      PostSearchAndBin1764200000000,
      ContentInOrder1764300000000,
      PostSearchWords1764400000000,
      Measurements1764500000000,
    ],
    migrationsTransactionMode: 'each',
    synchronize: false,
    installExtensions: false,
    poolSize: 10,
    // Whoever waits longer for a statement waits longer for a connection.
    connectTimeoutMS: Math.max(CONNECT_TIMEOUT, longest / 5),
    // Errors of idle connections are no news: the next request meets them again and is answered with 503.
    poolErrorHandler: () => undefined,
    // Opening a connection costs ten times a query: idle ones stay.
    extra: {
      statement_timeout: longest,
      // A server that says nothing at all is taken for one that is not there.
      query_timeout: longest + 2_000,
      application_name: 'esquina',
      idleTimeoutMillis: 600_000,
      keepAlive: true,
      // Statements are prepared once and planned once: planning a listing anew costs more than running it.
      options:
        '-c plan_cache_mode=force_generic_plan -c pg_trgm.similarity_threshold=0.4 -c pg_trgm.word_similarity_threshold=0.45',
    },
  })
}

/**
 * Opens the database and brings its schema up to date.
 * @param options.longest time a statement may take, in milliseconds
 */
export async function openDatabase(url: string, options: { longest?: number } = {}): Promise<DataSource> {
  const database = await makeDataSource(url, options).initialize()
  try {
    if (await database.showMigrations()) await migrate(url)
    return database
  } catch (error) {
    await database.destroy()
    throw error
  }
}

async function migrate(url: string): Promise<void> {
  const database = await makeDataSource(url, { longest: MIGRATION_TIMEOUT }).initialize()
  try {
    await database.runMigrations()
  } finally {
    await database.destroy()
  }
}

/** TypeORM's own pool, for compiled statements: the same connections without building a query runner each time. */
export function poolOf(database: DataSource): Pool {
  const driver: unknown = database.driver
  return (driver as { master: Pool }).master
}

/** True for errors that say “the database does not answer”, rather than “the statement is wrong”. */
export function isOutage(error: unknown): boolean {
  if (!(error instanceof Error)) return false
  const code = 'code' in error ? String(error.code) : ''
  if (/^(ECONN|EPIPE|ENOENT|ETIMEDOUT|EHOSTUNREACH|EAI_)/.test(code) || /^(08|57P|53)/.test(code)) return true
  if ('errors' in error && Array.isArray(error.errors) && error.errors.some(isOutage)) return true
  if (error.cause !== undefined && error.cause !== error && isOutage(error.cause)) return true
  return /not currently accepting connections|connection (terminated|timeout|ended)|timeout exceeded when trying to connect|query read timeout|client has encountered a connection error|not queryable/i.test(
    error.message,
  )
}

/** True for a text with a null character, which PostgreSQL's texts cannot have (SQLSTATE 22021, in JSON 22P05). */
export function isNoText(error: unknown): boolean {
  return error instanceof Error && 'code' in error && (error.code === '22021' || error.code === '22P05')
}
