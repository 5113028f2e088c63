/**
 * Steps: what was changed together, in one transaction. They are listed from the change log, with the rows before and
 * after, and undone from it.
 */
import type { EntityManager } from 'typeorm'
import { ChangeEntity } from '../entities/history.ts'

/** An entry of the log: the change of one row. */
export type StepEntry = Pick<
  ChangeEntity,
  'position' | 'transaction' | 'at' | 'origin' | 'undoes' | 'source' | 'rowId' | 'before' | 'after' | 'fields'
>

export interface Step {
  /** The transaction that has made it. */
  id: string
  at: Date
  /** `esquina`, or null for another program. */
  origin: string | null
  /** The step that it undoes. */
  undoes: string | null
  entries: StepEntry[]
  /** How many entries it has; `entries` may have only the first of them. */
  total: number
}

/** Entries of one step that are read. */
const MOST_ENTRIES = 200

/** How long changes are kept, in days. */
const KEPT_DAYS = 90

/** Lists the latest steps, newest first. @param before the id of a step: only earlier ones are listed */
export async function listSteps(
  manager: EntityManager,
  {
    before,
    of,
    limit,
  }: { before: string | undefined; of: 'content' | 'definition' | undefined; limit: number },
): Promise<Step[]> {
  const heads = await manager.query<{ id: string; total: number }[]>(
    `SELECT transaction::text AS id, count(*)::int AS total FROM change_log
     WHERE ($1::bigint IS NULL OR transaction < $1)
     GROUP BY transaction HAVING $3::boolean IS NULL OR bool_or(source = 'document') = $3
     ORDER BY max(position) DESC LIMIT $2`,
    [before ?? null, limit, of === undefined ? null : of === 'definition'],
  )
  return await Promise.all(heads.map(({ id, total }) => readStep(manager, id, total)))
}

async function readStep(
  manager: EntityManager,
  id: string,
  total: number,
  most = MOST_ENTRIES,
): Promise<Step> {
  const entries = await entriesOf(manager, id, most)
  const [first] = entries
  return {
    id,
    at: first?.at ?? new Date(0),
    origin: first?.origin ?? null,
    undoes: first?.undoes ?? null,
    entries,
    total,
  }
}

/** Returns one step; undefined if there is none. @param most how many of its entries are read */
export async function findStep(
  manager: EntityManager,
  id: string,
  most = MOST_ENTRIES,
): Promise<Step | undefined> {
  const total = await manager.countBy(ChangeEntity, { transaction: id })
  return total === 0 ? undefined : await readStep(manager, id, total, most)
}

const entriesOf = (manager: EntityManager, transaction: string, take?: number): Promise<StepEntry[]> =>
  manager.find(ChangeEntity, {
    where: { transaction },
    order: { position: 'ASC' },
    ...(take === undefined || take === Infinity ? {} : { take }),
  })

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

/** Columns that the database fills in, or of which the log has only a hash. */
const NOT_RESTORED = new Set(['search', 'bytes'])
/** Tables with a column that grows with every change. */
const VERSIONED = new Set(['post', 'page', 'category', 'tag', 'author', 'document'])

/**
 * Undoes the changes of a step, in reverse order, as a part of a transaction. What it changes is logged as a step of its
 * own. Versions grow, so that whoever has read a row notices.
 */
export async function undoEntries(manager: EntityManager, step: string): Promise<StepEntry[]> {
  await manager.query("SELECT set_config('esquina.undoes', $1, true)", [step])
  const entries = (await entriesOf(manager, step)).reverse()
  for (const group of groupsOf(entries)) {
    const [first] = group
    if (!first) continue
    if (first.before === null) await deleteAgain(manager, group)
    else if (first.after === null) await insertAgain(manager, first.source, group)
    else for (const entry of group) await changeBack(manager, entry)
  }
  return entries
}

const kindOf = ({ before, after }: StepEntry) =>
  before === null ? 'created' : after === null ? 'deleted' : 'changed'

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

/**
 * Groups entries that are applied together: rows of one table that refer to each other by one statement, and rows that
 * were deleted with the rows they refer to after these. A row that is deleted with another is logged before or after it.
 */
function groupsOf(entries: readonly StepEntry[]): StepEntry[][] {
  const runs: StepEntry[][] = []
  for (const entry of entries) {
    const last = runs.at(-1)
    const [first] = last ?? []
    if (last && first && kindOf(first) === kindOf(entry)) last.push(entry)
    else runs.push([entry])
  }
  return runs.flatMap((run) => {
    const [first] = run
    if (!first || kindOf(first) === 'changed') return [run]
    const inOrder = TABLES.flatMap((table) => {
      const rows = run.filter((one) => one.source === table)
      return rows.length > 0 ? [rows] : []
    })
    return kindOf(first) === 'deleted' ? inOrder : inOrder.reverse()
  })
}

async function deleteAgain(manager: EntityManager, entries: readonly StepEntry[]): Promise<void> {
  const { source = '' } = entries[0] ?? {}
  if (source === 'post_tag')
    for (const { after } of entries)
      await manager.query('DELETE FROM post_tag WHERE post_id = $1 AND tag_id = $2', [
        after?.['post_id'],
        after?.['tag_id'],
      ])
  else await manager.query(`DELETE FROM ${source} WHERE id = ANY($1)`, [entries.map((one) => one.rowId)])
}

async function insertAgain(
  manager: EntityManager,
  source: string,
  entries: readonly StepEntry[],
): Promise<void> {
  const rows = entries.map((one) => one.before ?? {})
  const columns = Object.keys(rows[0] ?? {}).filter((one) => !NOT_RESTORED.has(one))
  const names = columns.join(', ')
  const isImage = source === 'image'
  await manager.query(
    `INSERT INTO ${source} (${names}${isImage ? ', bytes' : ''})
     SELECT ${names}${isImage ? ', (SELECT former.bytes FROM former_image former WHERE former.sha256 = kept.sha256)' : ''}
     FROM jsonb_populate_recordset(NULL::${source}, $1::jsonb) AS kept`,
    [JSON.stringify(rows.map((row) => Object.fromEntries(columns.map((one) => [one, row[one]]))))],
  )
}

async function changeBack(
  manager: EntityManager,
  { source, rowId, before, fields }: StepEntry,
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
    `UPDATE ${source} changed SET ${sets.join(', ')} FROM jsonb_populate_record(NULL::${source}, $2::jsonb) AS kept WHERE changed.id = $1`,
    [rowId, JSON.stringify(Object.fromEntries([...columns, 'sha256'].map((one) => [one, before?.[one]])))],
  )
}

const NAME_OF: Readonly<Record<string, string>> = { post: 'title', page: 'title' }

/** Returns the names of rows that exist, by table and id. */
export async function rowNames(
  manager: EntityManager,
  ids: ReadonlyMap<string, ReadonlySet<number>>,
): Promise<Map<string, string>> {
  const names = new Map<string, string>()
  for (const [table, wanted] of ids) {
    if (!TABLES.includes(table)) continue
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
  await manager.query('DELETE FROM change_log WHERE at < now() - make_interval(days => $1)', [KEPT_DAYS])
  await manager.query('DELETE FROM former_image WHERE at < now() - make_interval(days => $1)', [KEPT_DAYS])
}
