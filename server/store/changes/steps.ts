/**
 * Steps: what was changed together, in one transaction. They are listed from the change log, with the rows before and
 * after.
 */
import type { EntityManager } from 'typeorm'
import type { ChangeEntity } from '../entities/history.ts'
import { LOGGED_TABLES } from '../migrations/change-log.ts'

/** An entry of the log: the change of one row. */
export type StepEntry = Pick<ChangeEntity, 'source' | 'rowId' | 'before' | 'after' | 'fields'>

export interface Step {
  /** The transaction that has made it. */
  id: string
  at: Date
  /** `esquina`, or null for another program. */
  origin: string | null
  /** The step that it undoes. */
  undoes: string | null
  /** How many rows it has changed, without those that follow from others, unless there are only such. */
  total: number
  /** How many of them are documents. */
  documents: number
  /** The first of them, as many as requested. Long texts are cut, and derived columns left out. */
  entries: StepEntry[]
}

/** How much of each step is read. */
export interface Extent {
  entries: number
  /** The longest text, in characters. */
  text: number
}

/** Rows that follow from others: links, former slugs and the rows of the bin. */
const FOLLOWING = ['post_tag', 'former_slug', 'deleted_row']

/** Columns that follow from others, or that only the product reads. */
const DERIVED = [
  'id',
  'version',
  'updated_at',
  'created_at',
  'html',
  'pipeline',
  'search',
  'word_count',
  'former_published_at',
  'once',
  'added_at',
  'rows',
  'links',
  'thread',
  'depth',
  'started_at',
  'parents_shown',
  'state_at',
  'score',
  'filled_in',
  'writer',
  'client',
  'avatar',
  'edited_at',
  'edits',
]

/** How long changes are kept, in days. */
const KEPT_DAYS = 90
/** Entries that are deleted by one statement. */
const BATCH = 5_000

/**
 * Lists the latest steps, newest first, by the order in which their transactions began to write. The log is read by its
 * index from one transaction to the next, so that what it costs depends on the limit, not on the length of the log.
 * @param before the id of a step: only earlier ones are listed
 */
export async function listSteps(
  manager: EntityManager,
  {
    before,
    of,
    limit,
    extent,
  }: {
    before: string | undefined
    of: 'content' | 'definition' | undefined
    limit: number
    extent: Extent
  },
): Promise<Step[]> {
  const isIn = of === 'definition' ? "AND source = 'document'" : ''
  const rows = await manager.query<{ id: string }[]>(
    `WITH RECURSIVE step AS (
       SELECT max(transaction) AS id FROM change_log WHERE transaction < $1::bigint ${isIn}
       UNION ALL
       SELECT (SELECT max(transaction) FROM change_log WHERE transaction < step.id ${isIn}) FROM step WHERE step.id IS NOT NULL)
     SELECT id::text FROM step WHERE id IS NOT NULL ${
       of === 'content'
         ? "AND NOT EXISTS (SELECT FROM change_log WHERE source = 'document' AND transaction = step.id)"
         : ''
     } LIMIT $2`,
    [before ?? LAST, limit],
  )
  return await readSteps(
    manager,
    rows.map((one) => one.id),
    extent,
  )
}

/** The largest number of a transaction. */
const LAST = '9223372036854775807'

/** Returns one step; undefined if there is none. */
export async function findStep(
  manager: EntityManager,
  id: string,
  extent: Extent,
): Promise<Step | undefined> {
  const [step] = await readSteps(manager, [id], extent)
  return step
}

/** Returns SQL for a row without derived columns, and without unchanged ones, except those that name it. */
const cutRow = (row: string) =>
  `(SELECT jsonb_object_agg(key, CASE WHEN jsonb_typeof(value) = 'string' AND length(value #>> '{}') > $3 THEN to_jsonb(left(value #>> '{}', $3) || '…') ELSE value END)
    FROM jsonb_each(entry.${row}) WHERE key <> ALL ($5) AND (entry.fields IS NULL OR key = ANY (entry.fields) OR key IN ('title', 'name', 'path', 'slug')))`

const READ_STEPS = `SELECT step.id::text, head.at, head.origin, head.undoes::text, size.own, size.every, size.documents, rows.entries
  FROM unnest($1::bigint[]) WITH ORDINALITY step (id, number)
  CROSS JOIN LATERAL (SELECT at, origin, undoes FROM change_log WHERE transaction = step.id ORDER BY position LIMIT 1) head
  CROSS JOIN LATERAL (
    SELECT (count(*) FILTER (WHERE source <> ALL ($4)))::int AS own, count(*)::int AS every, (count(*) FILTER (WHERE source = 'document'))::int AS documents
    FROM change_log WHERE transaction = step.id) size
  CROSS JOIN LATERAL (
    SELECT jsonb_agg(jsonb_build_object('source', entry.source, 'rowId', entry.row_id, 'before', ${cutRow('before')}, 'after', ${cutRow('after')}, 'fields', entry.fields) ORDER BY entry.position) AS entries
    FROM (
      SELECT * FROM change_log WHERE transaction = step.id AND (size.own = 0 OR source <> ALL ($4)) ORDER BY position LIMIT $2) entry) rows
  ORDER BY step.number`

interface StepRow extends Pick<Step, 'id' | 'at' | 'origin' | 'undoes' | 'documents' | 'entries'> {
  own: number
  every: number
}

async function readSteps(
  manager: EntityManager,
  ids: readonly string[],
  { entries, text }: Extent,
): Promise<Step[]> {
  const rows = await manager.query<StepRow[]>(READ_STEPS, [ids, entries, text, FOLLOWING, DERIVED])
  return rows.map(({ own, every, ...step }) => ({ ...step, total: own > 0 ? own : every }))
}

/**
 * Returns the steps that are undone: by a step that is not undone itself. With them, each returns the step that has
 * undone it.
 */
export async function undoneSteps(manager: EntityManager, since: string): Promise<Map<string, string>> {
  const rows = await manager.query<{ id: string; undoes: string }[]>(
    `SELECT DISTINCT transaction::text AS id, undoes::text FROM change_log
     WHERE undoes IS NOT NULL AND transaction >= $1::bigint ORDER BY 1`,
    [since],
  )
  const undone = new Map<string, string>()
  // The latest first: what undoes a step has no effect if it was undone later.
  for (const { id, undoes } of rows.sort((a, b) => (BigInt(a.id) < BigInt(b.id) ? 1 : -1)))
    if (!undone.has(id)) undone.set(undoes, id)
  return undone
}

/** Returns the steps that have changed rows of a step since, and are neither undone nor the undoing of one. */
export async function laterSteps(manager: EntityManager, step: string): Promise<string[]> {
  const undone = await undoneSteps(manager, step)
  const rows = await manager.query<{ id: string; undoes: string | null }[]>(
    `SELECT DISTINCT later.transaction::text AS id, later.undoes::text FROM change_log own
     JOIN change_log later ON later.source = own.source AND later.row_id = own.row_id AND later.position > own.position
     WHERE own.transaction = $1::bigint AND later.transaction <> own.transaction`,
    [step],
  )
  return rows.flatMap(({ id, undoes }) => (undone.has(id) || undoes !== null ? [] : [id]))
}

const NAME_OF: Readonly<Record<string, string>> = { post: 'title', page: 'title' }

/** Returns the names of rows that exist, by table and id. */
export async function rowNames(
  manager: EntityManager,
  ids: ReadonlyMap<string, ReadonlySet<number>>,
): Promise<Map<string, string>> {
  const names = new Map<string, string>()
  for (const [table, wanted] of ids) {
    if (!LOGGED_TABLES.includes(table)) continue
    const rows = await manager.query<{ id: number; name: string }[]>(
      `SELECT id, ${NAME_OF[table] ?? 'name'} AS name FROM ${table} WHERE id = ANY($1)`,
      [[...wanted]],
    )
    for (const { id, name } of rows) names.set(`${table} ${id}`, name)
  }
  return names
}

/** Forgets changes, and contents of images, that are older than they are kept. */
export async function forgetOldSteps(manager: EntityManager): Promise<void> {
  for (const [table, key] of [
    ['change_log', 'position'],
    ['former_image', 'sha256'],
  ]) {
    const batch = `DELETE FROM ${table} WHERE ${key} IN (
      SELECT ${key} FROM ${table} WHERE at < now() - make_interval(days => ${KEPT_DAYS}) LIMIT ${BATCH})`
    for (;;) {
      const [, deleted] = await manager.query<[unknown, number]>(batch)
      if (deleted < BATCH) break
    }
  }
}
