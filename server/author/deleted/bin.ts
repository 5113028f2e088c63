/** Where deleted rows go: with all that went with them, for a month, until somebody puts them back. */
import type { DataSource, EntityManager } from 'typeorm'
import type { Change } from '../../../core/caching/purge.ts'
import type { Blog } from '../../reader/blog.ts'
import { DeletedRowEntity } from '../../store/entities/history.ts'
import { forgetSlug } from '../slugs/slugs.ts'
import { isUniqueViolation } from '../../store/slugs.ts'
import { SLUG_KINDS, type BinKind, type SlugKind } from '../../../core/shapes/content-kinds.ts'

/** Days a deleted row can be put back. */
const KEPT_DAYS = 30
/** Entries of the list; older ones come up as these are put back. */
const LISTED = 200

export type BinTable =
  'post' | 'post_tag' | 'comment' | 'page' | 'category' | 'tag' | 'author' | 'image' | 'former_slug'

/** Rows that go: those of a table whose column has one of the values. */
export interface Going {
  table: BinTable
  column: string
  values: readonly number[]
}

/** What was changed elsewhere because of a deletion. */
export type Link =
  /** Rows whose column pointed at the deleted row, and points at `now` instead. */
  | { table: 'post' | 'category'; column: string; was: number; now: number | null; ids: number[] }
  /** Posts that got a tag they had not had. */
  | { table: 'post_tag'; tag: number; posts: number[] }

export interface Deletion {
  kind: BinKind
  /** Slug, path or name. */
  name: string
  title: string
  going: readonly Going[]
  links?: readonly Link[]
}

/** Keeps rows and then deletes them; those of the first table take the others along. @returns by which they come back */
export async function putInBin(
  manager: EntityManager,
  { kind, name, title, going, links = [] }: Deletion,
): Promise<number> {
  const rows: { table: BinTable; rows: unknown }[] = []
  for (const { table, column, values } of going) {
    const [found] = await manager.query<{ rows: unknown }[]>(
      `SELECT coalesce(jsonb_agg(kept.*), '[]') AS rows FROM ${table} kept WHERE kept.${column} = ANY($1)`,
      [values],
    )
    rows.push({ table, rows: found?.rows ?? [] })
  }
  await manager.query(`DELETE FROM deleted_row WHERE deleted_at < now() - interval '${KEPT_DAYS} days'`)
  const kept = await manager.save(DeletedRowEntity, { kind, name, title, rows, links })
  const [first] = going
  if (first) await manager.query(`DELETE FROM ${first.table} WHERE ${first.column} = ANY($1)`, [first.values])
  return kept.id
}

/** References that a row can live without: what they point at may be gone meanwhile. */
const OPTIONAL: Readonly<Partial<Record<BinTable, Readonly<Record<string, BinTable>>>>> = {
  post: { category_id: 'category', author_id: 'author', image_id: 'image' },
  category: { parent_id: 'category' },
}
/** References without which a row says nothing: it is left out when one is gone. */
const NEEDED: Readonly<Partial<Record<BinTable, Readonly<Record<string, BinTable>>>>> = {
  post_tag: { post_id: 'post', tag_id: 'tag' },
}

type Row = Record<string, unknown>

export type RestoreResult =
  | { outcome: 'restored'; kind: BinKind; name: string }
  | { outcome: 'unknown' }
  | { outcome: 'refused'; message: string }

class Refused extends Error {}

/** Puts deleted rows back as they were, with what pointed at them. */
export async function restoreFromBin(blog: Blog, deleted: number): Promise<RestoreResult> {
  let kind = 'row'
  try {
    const result = await blog.database.transaction(async (manager) => {
      // Two at once: the second finds nothing any more.
      const [bin] = await manager.query<(DeletedRowEntity & { kind: BinKind; links: Link[] })[]>(
        'SELECT id, kind, name, title, rows, links FROM deleted_row WHERE id = $1 FOR UPDATE',
        [deleted],
      )
      if (!bin) return undefined
      kind = bin.kind
      let { name } = bin
      const changes: Change[] = []
      for (const { table, rows } of bin.rows as { table: BinTable; rows: Row[] }[]) {
        let back = await withoutDangling(manager, table, rows)
        if (table === 'page') {
          back = await atPresentPaths(manager, back)
          name = String(back[0]?.['path'] ?? name)
        }
        await putBack(manager, table, back)
        changes.push(...madeAgain(table, back))
      }
      for (const link of bin.links) changes.push(...(await linkBack(manager, link)))
      await manager.query('DELETE FROM deleted_row WHERE id = $1', [deleted])
      if (bin.kind !== 'image') await forgetSlug(manager, bin.kind, name)
      return { kind: bin.kind, name, changes }
    })
    if (!result) return { outcome: 'unknown' }
    for (const change of result.changes) blog.changed(change)
    return { outcome: 'restored', kind: result.kind, name: result.name }
  } catch (error) {
    if (error instanceof Refused) return { outcome: 'refused', message: error.message }
    if (!isUniqueViolation(error)) throw error
    return {
      outcome: 'refused',
      message: `another ${kind} has taken its ${kind === 'image' ? 'name' : 'slug'} meanwhile; give that one another first`,
    }
  }
}

async function withoutDangling(
  manager: EntityManager,
  table: BinTable,
  rows: readonly Row[],
): Promise<Row[]> {
  const gone = async (references: Readonly<Record<string, BinTable>>) => {
    const found = new Map<string, Set<unknown>>()
    for (const [column, target] of Object.entries(references)) {
      const ids = [...new Set(rows.map((row) => row[column]).filter((id) => id !== null))]
      const known = await manager.query<{ id: number }[]>(`SELECT id FROM ${target} WHERE id = ANY($1)`, [
        ids,
      ])
      const here = new Set<unknown>(known.map((one) => one.id))
      found.set(column, new Set(ids.filter((id) => !here.has(id))))
    }
    return found
  }
  const optional = await gone(OPTIONAL[table] ?? {})
  const needed = await gone(NEEDED[table] ?? {})
  return rows
    .filter((row) => ![...needed].some(([column, ids]) => ids.has(row[column])))
    .map((row) => ({
      ...row,
      ...Object.fromEntries(
        [...optional].flatMap(([column, ids]) => (ids.has(row[column]) ? [[column, null]] : [])),
      ),
    }))
}

/** Pages come back below the page they were under, wherever that is now. */
async function atPresentPaths(manager: EntityManager, rows: readonly Row[]): Promise<Row[]> {
  const sorted = [...rows].sort((a, b) => String(a['path']).length - String(b['path']).length)
  const [top] = sorted
  if (!top) return []
  const was = String(top['path'])
  let now = String(top['slug'])
  if (top['parent_id'] !== null) {
    const [parent] = await manager.query<{ path: string }[]>('SELECT path FROM page WHERE id = $1', [
      top['parent_id'],
    ])
    if (!parent) throw new Refused('the page it was under is not there any more; put that back first')
    now = `${parent.path}/${now}`
  }
  return sorted.map((row) => ({ ...row, path: now + String(row['path']).slice(was.length) }))
}

async function putBack(manager: EntityManager, table: BinTable, rows: readonly Row[]): Promise<void> {
  const former = table === 'former_slug'
  const owner = (kind: SlugKind) => `${kind}_id = EXCLUDED.${kind}_id`
  await manager.query(
    `INSERT INTO ${table} SELECT kept.* FROM jsonb_populate_recordset(NULL::${table}, $1::jsonb) AS kept
     ${former ? `ON CONFLICT (kind, slug) DO UPDATE SET ${SLUG_KINDS.map(owner).join(', ')}` : ''}`,
    [JSON.stringify(rows)],
  )
}

/** What the copies that readers get must hear of. */
function madeAgain(table: BinTable, rows: readonly Row[]): Change[] {
  const source = SOURCE_OF[table]
  const all: Change[] =
    source === undefined
      ? []
      : rows.map((row) => ({ source, id: Number(row['id']), before: null, after: {} }))
  if (table !== 'comment') return all
  const posts = [...new Set(rows.map((row) => Number(row['post_id'])))]
  return [
    {
      source: 'comments',
      id: 0,
      before: null,
      after: {},
      counted: posts.map((id) => ({ source: 'posts', id })),
    },
  ]
}

const SOURCE_OF: Readonly<Partial<Record<BinTable, Change['source']>>> = {
  post: 'posts',
  page: 'pages',
  category: 'categories',
  tag: 'tags',
  author: 'authors',
}

async function linkBack(manager: EntityManager, link: Link): Promise<Change[]> {
  if (link.table === 'post_tag') {
    await manager.query('DELETE FROM post_tag WHERE tag_id = $1 AND post_id = ANY($2)', [
      link.tag,
      link.posts,
    ])
    return link.posts.map((id) => ({
      source: 'posts',
      id,
      before: { tagIds: [link.tag] },
      after: { tagIds: [] },
    }))
  }
  const { table, column, was, now, ids } = link
  const version = table === 'post' ? ', version = version + 1' : ''
  // What somebody gave it meanwhile stays.
  const [changed] = await manager.query<[{ id: number }[], number]>(
    `UPDATE ${table} SET ${column} = $1${version} WHERE id = ANY($2) AND ${column} IS NOT DISTINCT FROM $3::int RETURNING id`,
    [was, ids, now],
  )
  const field = column.replace(/_id$/, 'Id')
  return changed.map(({ id }) => ({
    source: table === 'post' ? 'posts' : 'categories',
    id,
    before: { [field]: now },
    after: { [field]: was },
  }))
}

/** What can be put back, the last deleted first. */
export async function listBin(
  database: DataSource,
  kind: BinKind,
): Promise<{ id: number; name: string; title: string; deletedAt: Date }[]> {
  return await database.getRepository(DeletedRowEntity).find({
    where: { kind },
    select: { id: true, name: true, title: true, deletedAt: true },
    order: { deletedAt: 'DESC', id: 'DESC' },
    take: LISTED,
  })
}
