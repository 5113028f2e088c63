/**
 * Undoes what a transaction has changed, from the change log. The rows of the log do not leave the database, so that a
 * step with many rows costs the process no memory to speak of.
 */
import type { EntityManager } from 'typeorm'

/** An entry of the log without the row. */
interface Entry {
  position: string
  source: string
  rowId: number
  kind: 'created' | 'changed' | 'deleted' | 'emptied'
  fields: string[] | null
}

/** Columns that the database fills in, or of which the log has only a hash. */
const NOT_RESTORED = new Set(['search', 'bytes'])
/** Tables with a column that grows with every change. */
const VERSIONED = new Set(['post', 'page', 'category', 'tag', 'author', 'comment', 'document'])

/** Each table after those that its rows refer to. */
const TABLES = [
  'image',
  'category',
  'author',
  'tag',
  'page',
  'post',
  'post_tag',
  'comment',
  'former_slug',
  'document',
  'deleted_row',
]

/** What a step has changed, without the rows themselves. */
export interface StepReach {
  documents: boolean
  /** Whether a table was emptied, of which the log has no rows. */
  emptied: boolean
}

/** Returns what a step has changed; undefined if there is no such step. */
export async function reachOf(manager: EntityManager, step: string): Promise<StepReach | undefined> {
  const [found] = await manager.query<{ entries: number; documents: boolean; emptied: boolean }[]>(
    `SELECT count(*)::int AS entries, bool_or(source = 'document') AS documents, bool_or(before IS NULL AND after IS NULL) AS emptied
     FROM change_log WHERE transaction = $1::bigint`,
    [step],
  )
  return found && found.entries > 0 ? found : undefined
}

/**
 * Undoes the changes of a step, in reverse order, as a part of a transaction. What it changes is logged as a step of its
 * own. Versions grow, so that whoever has read a row notices.
 */
export async function undoEntries(manager: EntityManager, step: string): Promise<void> {
  await manager.query("SELECT set_config('esquina.undoes', $1, true)", [step])
  const entries = await manager.query<Entry[]>(
    `SELECT position::text, source, row_id AS "rowId", fields,
       CASE WHEN before IS NULL AND after IS NULL THEN 'emptied' WHEN before IS NULL THEN 'created' WHEN after IS NULL THEN 'deleted' ELSE 'changed' END AS kind
     FROM change_log WHERE transaction = $1::bigint ORDER BY position DESC`,
    [step],
  )
  for (const group of groupsOf(entries)) {
    const [first] = group
    if (!first || !TABLES.includes(first.source)) continue
    const positions = group.map((one) => one.position)
    if (first.kind === 'created') await deleteAgain(manager, first.source, positions)
    else if (first.kind === 'deleted') await insertAgain(manager, first.source, positions)
    else if (first.kind === 'changed') await changeBack(manager, first, positions)
  }
}

/** Cuts a list where two neighbours cannot be applied together. */
function runsOf(
  entries: readonly Entry[],
  isTogether: (one: Entry, last: readonly Entry[]) => boolean,
): Entry[][] {
  const runs: Entry[][] = []
  for (const entry of entries) {
    const last = runs.at(-1)
    if (last && isTogether(entry, last)) last.push(entry)
    else runs.push([entry])
  }
  return runs
}

/**
 * Groups entries that are applied together: rows of one table that refer to each other by one statement, and rows that
 * were deleted with the rows they refer to after these. A row that is deleted with another is logged before or after it.
 */
function groupsOf(entries: readonly Entry[]): Entry[][] {
  return runsOf(entries, (one, [first]) => first?.kind === one.kind).flatMap((run) => {
    const [first] = run
    if (first?.kind === 'changed') return changesTogether(run)
    const inOrder = TABLES.flatMap((table) => {
      const rows = run.filter((one) => one.source === table)
      return rows.length > 0 ? [rows] : []
    })
    return first?.kind === 'deleted' ? inOrder : inOrder.reverse()
  })
}

/** Groups changes of the same columns of different rows of a table. */
function changesTogether(run: readonly Entry[]): Entry[][] {
  const rows = new Set<number>()
  return runsOf(run, (one, [first]) => {
    const isTogether =
      first?.source === one.source && String(first.fields) === String(one.fields) && !rows.has(one.rowId)
    if (!isTogether) rows.clear()
    rows.add(one.rowId)
    return isTogether
  })
}

async function deleteAgain(
  manager: EntityManager,
  source: string,
  positions: readonly string[],
): Promise<void> {
  const isSame =
    source === 'post_tag'
      ? "created.post_id = (entry.after ->> 'post_id')::int AND created.tag_id = (entry.after ->> 'tag_id')::int"
      : 'created.id = entry.row_id'
  await manager.query(
    `DELETE FROM ${source} created USING change_log entry WHERE entry.position = ANY($1::bigint[]) AND ${isSame}`,
    [positions],
  )
}

async function insertAgain(
  manager: EntityManager,
  source: string,
  positions: readonly string[],
): Promise<void> {
  const columns = (await columnsOf(manager, positions[0])).filter((one) => !NOT_RESTORED.has(one))
  const names = columns.map((one) => `kept.${one}`)
  if (source === 'image')
    names.push('(SELECT former.bytes FROM former_image former WHERE former.sha256 = kept.sha256)')
  await manager.query(
    `INSERT INTO ${source} (${[...columns, ...(source === 'image' ? ['bytes'] : [])].join(', ')})
     SELECT ${names.join(', ')} FROM change_log entry CROSS JOIN LATERAL jsonb_populate_record(NULL::${source}, entry.before) kept
     WHERE entry.position = ANY($1::bigint[])`,
    [positions],
  )
}

/** Returns the columns that a row had when it was deleted: a column that was added since gets its default. */
async function columnsOf(manager: EntityManager, position: string | undefined): Promise<string[]> {
  const rows = await manager.query<{ name: string }[]>(
    'SELECT jsonb_object_keys(before) AS name FROM change_log WHERE position = $1::bigint',
    [position],
  )
  return rows.map((one) => one.name)
}

async function changeBack(
  manager: EntityManager,
  { source, fields }: Entry,
  positions: readonly string[],
): Promise<void> {
  const columns = (fields ?? []).filter((one) => !NOT_RESTORED.has(one) && one !== 'version')
  const sets = columns.map((one) => `${one} = kept.${one}`)
  if (VERSIONED.has(source)) sets.push('version = changed.version + 1')
  if (fields?.includes('bytes'))
    sets.push(
      'bytes = coalesce((SELECT former.bytes FROM former_image former WHERE former.sha256 = kept.sha256), changed.bytes)',
    )
  if (sets.length === 0) return
  await manager.query(
    `UPDATE ${source} changed SET ${sets.join(', ')}
     FROM change_log entry CROSS JOIN LATERAL jsonb_populate_record(NULL::${source}, entry.before) kept
     WHERE entry.position = ANY($1::bigint[]) AND changed.id = entry.row_id`,
    [positions],
  )
}
