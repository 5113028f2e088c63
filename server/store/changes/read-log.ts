/** Reads the change log as changes of rows that queries see. */
import type { Change, RowSource } from '../../../core/caching/change.ts'
import type { EvaluatedRow } from '../../../core/queries/evaluate.ts'
import { SOURCE, TABLE, type Field } from '../../../core/queries/sources.ts'
import type { SourceName } from '../../../core/shapes/schemas.ts'
import type { Queryable } from '../connection.ts'

/** The maximum age of the last acknowledgement of a purger, in milliseconds. A silent one may have crashed. */
const PURGER_SILENCE = 3_000

/** Runs a statement and returns its rows: a manager or a connection. */
export type Read = (sql: string, values: readonly unknown[]) => Promise<unknown[]>

/** What was changed together, in the order in which it was changed. */
export interface LoggedChanges {
  rows: Change[]
  /** Paths of documents of the definition. */
  documents: string[]
  /** Whether a table was emptied, so that nothing is known of its rows. */
  isTruncated: boolean
  /** The last transaction; null without any change. */
  transaction: string | null
  transactions: string[]
  /** When they were read, by the clock of the database, which decides what is published. */
  readAt: Date
}

interface Entry {
  position: string
  transaction: string
  source: string
  row_id: number
  before: Record<string, unknown> | null
  after: Record<string, unknown> | null
  fields: string[] | null
  related: Record<string, unknown> | null
  read_at: Date
}

/** Columns that no condition reads, and which are long. That they were changed is in `fields`. */
const LONG = "ARRAY['body', 'html', 'search', 'text', 'bytes', 'edits']"

const SOURCE_OF = new Map<string, RowSource>(
  Object.entries(TABLE).map(([source, table]) => [table, source as RowSource]),
)

const columnOf = (field: string) => field.replace(/[A-Z]/g, (letter) => `_${letter.toLowerCase()}`)
const fieldOf = (column: string) => column.replace(/_([a-z])/g, (_, letter: string) => letter.toUpperCase())

/** Returns SQL for the fields of a related row that conditions can read. */
function relatedObject(source: RowSource): string {
  const fields = source === 'images' ? {} : SOURCE[source].fields
  const isStored = ({ long, partOf, type }: Field) =>
    !long && !partOf && type !== 'words' && type !== 'relevance'
  const names = Object.entries(fields).flatMap(([name, field]) => (isStored(field) ? [name] : []))
  return `jsonb_build_object(${names.map((name) => `'${name}', x.${columnOf(name)}`).join(', ')})`
}

/** Returns SQL for the related rows of an entry as they are now, by relation; rows of to-one relations by their ids. */
function relatedSql(source: SourceName): string {
  const parts = Object.entries(SOURCE[source].relations).flatMap(([relation, { source: target, many }]) => {
    if (target === 'images') return []
    const rows = many
      ? `SELECT coalesce(jsonb_agg(${relatedObject(target)}), '[]') FROM post_tag link JOIN ${TABLE[target]} x ON x.id = link.tag_id WHERE link.post_id = entry.row_id`
      : `SELECT coalesce(jsonb_object_agg(x.id, ${relatedObject(target)}), '{}') FROM ${TABLE[target]} x WHERE x.id IN ((entry.before ->> '${relation}_id')::int, (entry.after ->> '${relation}_id')::int)`
    return [`'${relation}', (${rows})`]
  })
  return `WHEN '${TABLE[source]}' THEN jsonb_build_object(${parts.join(', ')})`
}

const LINKED = `WHEN 'post_tag' THEN (SELECT ${relatedObject('tags')} FROM tag x WHERE x.id = coalesce(entry.after ->> 'tag_id', entry.before ->> 'tag_id')::int)`

const RELATED = `CASE entry.source ${(Object.keys(SOURCE) as SourceName[]).map(relatedSql).join(' ')} ${LINKED} END`

const ENTRIES = `SELECT entry.position, entry.transaction, entry.source, entry.row_id, entry.before - ${LONG} AS before,
  entry.after - ${LONG} AS after, entry.fields, ${RELATED} AS related, clock_timestamp() AS read_at FROM change_log entry`

/** Reads what the current transaction has changed. */
export async function ownChanges(client: Queryable): Promise<LoggedChanges> {
  // Prepared, since planning it takes longer than running it.
  const { rows } = await client.query<Entry>({ name: 'own changes', text: OWN_ENTRIES })
  return gather(rows)
}

const OWN_ENTRIES = `${ENTRIES} WHERE entry.transaction = pg_current_xact_id_if_assigned()::text::bigint ORDER BY entry.position`

/**
 * Gives the current transaction, which changes nothing, an id, and has followers read the log. Whoever sees the
 * transaction also sees everything that it has seen.
 */
export async function markTransaction(client: Queryable): Promise<string> {
  const { rows } = await client.query<{ id: string }>({
    name: 'mark transaction',
    text: "SELECT pg_current_xact_id()::text AS id, pg_notify('esquina_change', '')",
  })
  return rows[0]?.id ?? ''
}

/** The state of the database at a reading. */
interface State {
  running: string
  snapshot: string
  place: string
  purges: boolean
  era: string
}

/** What a follower of the log has read. */
export interface Followed {
  /** The oldest transaction that was still running: from there on, entries may be missing. */
  from: string
  /** The state of the database that was read, as `pg_snapshot` prints it. */
  snapshot: string
  /** A place in the write-ahead log that is after all of it. */
  place: bigint
  /** The start time of the database server. */
  era: string
  /** Whether the edge cache is being purged, so that it may store pages. */
  purgesEdge: boolean
  /** Positions of the entries at or after `from`. */
  entries: string[]
  /** What is new, without this process's own changes; null if there is too much. */
  changes: LoggedChanges | null
}

/**
 * Reads what was committed since an earlier reading. Entries are not committed in the order of their positions, so a
 * reading begins at the oldest transaction that was running at the one before.
 */
export async function followedChanges(
  read: Read,
  {
    from,
    isKnown,
    isOwn,
    most,
  }: {
    /** Null for the first reading, which finds nothing new. */
    from: string | null
    isKnown(position: string): boolean
    isOwn(transaction: string): boolean
    most: number
  },
): Promise<Followed> {
  // One statement sees one state of the database: what is running, and what is committed.
  const rows = (await read(
    `SELECT pg_snapshot_xmin(pg_current_snapshot())::text AS running, pg_current_snapshot()::text AS snapshot,
       pg_wal_lsn_diff(pg_current_wal_insert_lsn(), '0/0')::text AS place,
       EXISTS (SELECT FROM copy_process WHERE patience IS NOT NULL
         AND seen_at > clock_timestamp() - make_interval(secs => $3)) AS purges,
       pg_postmaster_start_time()::text AS era, entry.*
     FROM (SELECT) one LEFT JOIN (${ENTRIES} WHERE entry.transaction >= coalesce($1::bigint, pg_snapshot_xmin(pg_current_snapshot())::text::bigint)
       ORDER BY entry.position LIMIT $2) entry ON true ORDER BY entry.position`,
    [from, most + 1, PURGER_SILENCE / 1_000],
  )) as (State & (Entry | { position: null }))[]
  const { running = '0', snapshot = '', place = '0', purges = false, era = '' } = rows[0] ?? {}
  const entries = rows.filter((one): one is State & Entry => one.position !== null)
  const fresh =
    from === null ? [] : entries.filter((one) => !isKnown(one.position) && !isOwn(one.transaction))
  return {
    from: running,
    snapshot,
    place: BigInt(place),
    purgesEdge: purges,
    era,
    entries: entries.flatMap((one) => (BigInt(one.transaction) >= BigInt(running) ? [one.position] : [])),
    changes: entries.length > most ? null : gather(fresh),
  }
}

/** The number of earlier entries that are read. */
const MOST_EARLIER = 2_000

/**
 * Reads the sources of the latest changes from before the log is followed.
 * @returns `from`: all changes of this transaction and later ones are among them, or will be read by the follower; undefined
 * if there are too many
 */
export async function earlierChanges(
  pool: Queryable,
): Promise<{ from: string; changes: { transaction: string; source: string | null }[] } | undefined> {
  const { rows } = await pool.query<{ from: string; transaction: string | null; source: string | null }>(
    `WITH since AS (
       SELECT coalesce(
         (SELECT transaction + 1 FROM change_log ORDER BY position DESC OFFSET $1 LIMIT 1),
         (SELECT min(transaction) FROM change_log),
         pg_snapshot_xmin(pg_current_snapshot())::text::bigint
       ) AS first
     )
     SELECT since.first::text AS from, entry.transaction::text AS transaction, entry.source
     FROM since LEFT JOIN change_log entry ON entry.transaction >= since.first AND entry.source <> 'document' LIMIT $2`,
    // Transactions that ran at the same time can have any number of entries before the latest ones.
    [MOST_EARLIER, 2 * MOST_EARLIER],
  )
  if (rows.length === 2 * MOST_EARLIER) return undefined
  return {
    from: rows[0]?.from ?? '0',
    changes: rows.flatMap(({ transaction, source }) =>
      transaction === null ? [] : [{ transaction, source: sourceOfTable(source ?? '') }],
    ),
  }
}

/** Returns the source of a table; null if changes of it can affect every copy, as those of former slugs. */
const sourceOfTable = (table: string): RowSource | null =>
  table === 'post_tag' ? 'posts' : (SOURCE_OF.get(table) ?? null)

/** Turns entries into changes. */
function gather(entries: readonly Entry[]): LoggedChanges {
  const result: LoggedChanges = {
    rows: [],
    documents: [],
    isTruncated: false,
    transaction: null,
    transactions: [...new Set(entries.map((one) => one.transaction))],
    readAt: entries[0]?.read_at ?? new Date(0),
  }
  for (const entry of entries) {
    result.transaction = entry.transaction
    if (entry.before === null && entry.after === null) result.isTruncated = true
    else if (entry.source === 'document')
      result.documents.push(String((entry.after ?? entry.before)?.['path']))
    else if (entry.source === 'post_tag') result.rows.push(linkChange(entry))
    else if (entry.source === 'former_slug') result.rows.push(...formerSlugChanges(entry))
    else {
      const source = SOURCE_OF.get(entry.source)
      if (source) result.rows.push(rowChange(source, entry))
    }
  }
  return result
}

/** A former slug, from which readers are redirected, was added, changed or deleted: a change of the rows that had it. */
const formerSlugChanges = ({ before, after }: Entry): Change[] =>
  [...SOURCE_OF].flatMap(([table, source]) => {
    const ids = new Set([before, after].flatMap((one) => Number(one?.[`${table}_id`] ?? 0) || []))
    return [...ids].map((id) => ({
      source,
      id,
      kind: 'changed' as const,
      fields: new Set(['formerSlug']),
      before: {},
      after: {},
    }))
  })

const linkChange = ({ row_id: id, related }: Entry): Change => ({
  source: 'posts',
  id,
  kind: 'changed',
  fields: new Set(['tags']),
  before: {},
  after: {},
  link: { relation: 'tags', row: related ?? {} },
})

function rowChange(source: RowSource, { row_id: id, before, after, fields, related }: Entry): Change {
  const row = (columns: Record<string, unknown> | null) => columns && evaluatedRow(source, columns, related)
  return {
    source,
    id,
    kind: before === null ? 'created' : after === null ? 'deleted' : 'changed',
    fields: new Set((fields ?? []).map(fieldOf)),
    before: row(before),
    after: row(after),
  }
}

/** Returns a row as conditions read it: fields by their names, times as Date, and related rows where they are known. */
function evaluatedRow(
  source: RowSource,
  columns: Readonly<Record<string, unknown>>,
  related: Readonly<Record<string, unknown>> | null,
): EvaluatedRow {
  const row: Record<string, unknown> = {}
  for (const [column, value] of Object.entries(columns)) row[fieldOf(column)] = value
  if (source === 'images') return row
  withTimes(source, row)
  for (const [relation, { source: target, many }] of Object.entries(SOURCE[source].relations)) {
    const found = related?.[relation] as unknown
    if (found === undefined || target === 'images') continue
    if (many) row[relation] = (found as Record<string, unknown>[]).map((one) => withTimes(target, { ...one }))
    else {
      const id = row[`${relation}Id`]
      const one = (found as Record<string, Record<string, unknown>>)[String(id)]
      row[relation] = id === null ? null : one && withTimes(target, { ...one })
    }
  }
  return row
}

function withTimes(source: SourceName, row: Record<string, unknown>): Record<string, unknown> {
  for (const [name, { type }] of Object.entries(SOURCE[source].fields)) {
    const value = row[name]
    if (type === 'time' && typeof value === 'string') row[name] = new Date(value)
  }
  return row
}
