/** Opens the database: entities, migrations and the connection pool. */
import 'reflect-metadata'
import { DataSource } from 'typeorm'
import pg, { type Pool, type PoolClient } from 'pg'
import {
  AuthorEntity,
  CategoryEntity,
  CommentEntity,
  CommentRateEntity,
  CommentTallyEntity,
  ImageEntity,
  PageEntity,
  PostEntity,
  TagEntity,
} from './entities/content.ts'
import { DocumentEntity, SettingEntity } from './entities/definition.ts'
import {
  ChangeEntity,
  CopyProcessEntity,
  DeletedRowEntity,
  FormerImageEntity,
  FormerSlugEntity,
  MeasurementEntity,
  DismissedFindingEntity,
  NotFoundAddressEntity,
  WorkbenchSessionEntity,
} from './entities/history.ts'
import { CommentNoticeEntity, CommentSubscriptionEntity, MailEntity } from './entities/mail.ts'
import { ScramClient } from './scram-client.ts'
import { StatementReports } from './statement-reports.ts'
import { FirstTables1764000000000 } from './migrations/first-tables.ts'
import { ChangeLogIndexes1764800000000 } from './migrations/change-log-indexes.ts'
import { ChangeLog1764700000000 } from './migrations/change-log.ts'
import { CommentMail1765100000000 } from './migrations/comment-mail.ts'
import { Comments1764900000000 } from './migrations/comments.ts'
import { CopyProcesses1765200000000 } from './migrations/copy-processes.ts'
import { ImageSizes1765400000000 } from './migrations/image-sizes.ts'
import { ContentInOrder1764300000000 } from './migrations/content-in-order.ts'
import { Measurements1764500000000 } from './migrations/measurements.ts'
import { PostSearchAndBin1764200000000 } from './migrations/post-search-and-bin.ts'
import { PostSearchWords1764400000000 } from './migrations/post-search-words.ts'
import { PurgedCaches1765300000000 } from './migrations/purged-caches.ts'
import { SlugHistory1764100000000 } from './migrations/slug-history.ts'
import { TreeGuards1764600000000 } from './migrations/tree-guards.ts'
import { WorkbenchSessions1765000000000 } from './migrations/workbench-sessions.ts'

/** Runs statements: a pool, or a single connection. */
export type Queryable = Pick<Pool, 'query'>

const ENTITIES = [
  AuthorEntity,
  CategoryEntity,
  ChangeEntity,
  CommentEntity,
  CommentNoticeEntity,
  CommentRateEntity,
  CommentSubscriptionEntity,
  CommentTallyEntity,
  CopyProcessEntity,
  DeletedRowEntity,
  DocumentEntity,
  FormerImageEntity,
  FormerSlugEntity,
  ImageEntity,
  MailEntity,
  MeasurementEntity,
  PageEntity,
  PostEntity,
  DismissedFindingEntity,
  SettingEntity,
  TagEntity,
  NotFoundAddressEntity,
  WorkbenchSessionEntity,
]

/** The maximum time of a statement, in milliseconds. */
export const STATEMENT_TIMEOUT = 5_000
/** How much later a server that does not respond at all counts as unavailable, in milliseconds. */
export const QUERY_MARGIN = 2_000

/** How many connections there are at most. */
export const CONNECTIONS = 10

/** The trigram similarity from which a slug is a candidate for a suggestion. The operator that uses the index takes it from here. */
export const SIMILAR_SLUGS = 0.4

/** Settings of all connections on which queries run. */
export const CONNECTION_SETTINGS = {
  Client: ScramClient,
  application_name: 'esquina',
  // Opening a connection costs ten times as much as a query, so idle connections are kept.
  idleTimeoutMillis: 600_000,
  keepAlive: true,
  // Statements are prepared and planned once: planning a listing costs more than running it.
  options: `-c esquina.origin=esquina -c plan_cache_mode=force_generic_plan -c pg_trgm.similarity_threshold=${SIMILAR_SLUGS} -c pg_trgm.word_similarity_threshold=0.45`,
}

/** The maximum time to connect, in milliseconds. */
const CONNECT_TIMEOUT = 3_000

/** The maximum time of a migration's statement, in milliseconds. Building an index for a large blog takes long. */
const MIGRATION_TIMEOUT = 3_600_000

/**
 * Creates a data source.
 * @param options.longest the maximum time of a statement, in milliseconds
 * @param options.connections at most
 */
export function makeDataSource(
  url: string,
  { longest = STATEMENT_TIMEOUT, connections = CONNECTIONS } = {},
): DataSource {
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
      TreeGuards1764600000000,
      ChangeLog1764700000000,
      ChangeLogIndexes1764800000000,
      Comments1764900000000,
      WorkbenchSessions1765000000000,
      CommentMail1765100000000,
      CopyProcesses1765200000000,
      PurgedCaches1765300000000,
      ImageSizes1765400000000,
    ],
    subscribers: [StatementReports],
    migrationsTransactionMode: 'each',
    synchronize: false,
    installExtensions: false,
    poolSize: connections,
    // Tests with a longer statement timeout also wait longer for a connection.
    connectTimeoutMS: Math.max(CONNECT_TIMEOUT, longest / 5),
    // Errors of idle connections need no handling: the next request fails too and is answered with 503.
    poolErrorHandler: () => undefined,
    extra: {
      ...CONNECTION_SETTINGS,
      statement_timeout: longest,
      query_timeout: longest + QUERY_MARGIN,
    },
  })
}

/**
 * Opens the database and runs pending migrations.
 * @param options.longest the maximum time of a statement, in milliseconds
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

/** Returns the address of a database, for a connection of another thread. */
export function urlOf({ options }: DataSource): string {
  if (options.type !== 'postgres' || options.url === undefined)
    throw new Error('The database has no address.')
  return options.url
}

/** Returns TypeORM's pool. Compiled statements use it directly, without creating a query runner each time. */
export function poolOf(database: DataSource): Pool {
  const driver: unknown = database.driver
  return (driver as { master: Pool }).master
}

/** Searches that run at the same time, in one process. */
const SEARCHES = 2
/** The maximum time of a search's statement, and how long a search waits for its turn, in milliseconds. */
const SEARCH_TIMEOUT = 1_500
const SEARCH_WAIT = 3_000

/** Search connections that are not used are closed after this time, in milliseconds. */
const SEARCH_IDLE = 5_000

const searchPools = new WeakMap<DataSource, Pool>()

/** Returns the connections on which all searches of this process run. They are opened when they are needed. */
export function searchPoolOf(database: DataSource): Pool {
  const known = searchPools.get(database)
  if (known) return known
  const pool = new pg.Pool({
    connectionString: urlOf(database),
    ...(database.options.type === 'postgres' ? (database.options.extra as object) : {}),
    Client: ScramClient,
    max: SEARCHES,
    statement_timeout: SEARCH_TIMEOUT,
    connectionTimeoutMillis: SEARCH_WAIT,
    idleTimeoutMillis: SEARCH_IDLE,
    allowExitOnIdle: true,
  })
  // The next search opens another connection.
  pool.on('error', () => undefined)
  searchPools.set(database, pool)
  return pool
}

/** Returns true if a search took too long, or waited too long for others. */
export function isTooExpensive(error: unknown): boolean {
  if (!(error instanceof Error)) return false
  return (
    ('code' in error && error.code === '57014') ||
    /timeout exceeded when trying to connect/i.test(error.message) ||
    (error.cause !== undefined && isTooExpensive(error.cause))
  )
}

/** Returns true if an error means that the database is unavailable, rather than that a statement is wrong. */
export function isOutage(error: unknown): boolean {
  if (!(error instanceof Error)) return false
  const code = 'code' in error ? String(error.code) : ''
  if (/^(ECONN|EPIPE|ENOENT|ETIMEDOUT|EHOSTUNREACH|EAI_)/.test(code) || /^(08|57P|53)/.test(code)) return true
  if ('errors' in error && Array.isArray(error.errors) && error.errors.some(isOutage)) return true
  if (error.cause !== undefined && error.cause !== error && isOutage(error.cause)) return true
  return /not currently accepting connections|connection (terminated|timeout|ended)|timeout exceeded when trying to connect|query read timeout|client has encountered a connection error|not queryable|query runner already released/i.test(
    error.message,
  )
}

/**
 * Returns true if an error means that no connection can be made. A server that answers is not away, even if it refuses a
 * connection because it has too many, or ends one. A computer that has lost its network cannot tell the difference.
 */
export function isAway(error: unknown): boolean {
  if (!(error instanceof Error)) return false
  const code = 'code' in error ? String(error.code) : ''
  if (/^(ECONNREFUSED|ENOENT|ETIMEDOUT|EHOSTUNREACH|ENETUNREACH|EAI_\w+|57P03)$/.test(code)) return true
  if ('errors' in error && Array.isArray(error.errors) && error.errors.some(isAway)) return true
  return /not currently accepting connections|^timeout expired$/i.test(error.message)
}

/** Returns true for the error about a null character, which PostgreSQL's texts cannot have (SQLSTATE 22021, in JSON 22P05). */
export function isNullCharacter(error: unknown): boolean {
  return error instanceof Error && 'code' in error && (error.code === '22021' || error.code === '22P05')
}

/** Makes a single connection usable as a pool: concurrent queries run one after the other. */
export function inTurn(client: PoolClient): Queryable {
  let last: Promise<unknown> = Promise.resolve()
  const query = (...words: Parameters<PoolClient['query']>) => {
    const next = last.then(() => client.query(...words))
    last = next.then(
      () => undefined,
      () => undefined,
    )
    return next
  }
  return { query: query as Queryable['query'] }
}
