/** Deleted rows are kept for a month with everything that was deleted with them, and can be restored. */
import type { DataSource, EntityManager } from 'typeorm'
import type { DeletedKind } from '../../../core/shapes/content-kinds.ts'
import { blocked, success, unknown, type Outcome } from '../../../core/shapes/outcome.ts'
import {
  deleteRows,
  existingIds,
  insertRows,
  purgeDeletedRows,
  readRows,
  type KeptRow,
  type KeptTable,
  type RowSelection,
} from '../../store/content/kept-rows.ts'
import { removeTagFromPosts } from '../../store/content/terms.ts'
import { CategoryEntity, PageEntity, PostEntity } from '../../store/entities/content.ts'
import { DeletedRowEntity } from '../../store/entities/history.ts'
import { RESTORE_PROBLEMS } from '../problems.ts'
import { forgetSlug } from '../slugs/history.ts'
import type { Writing } from '../writing.ts'

/** For how many days a deleted row can be restored. */
const KEPT_DAYS = 30
/** The maximum length of the list of deleted rows. */
const LIST_LIMIT = 200

/** A reference that was changed because of a deletion. */
export type ChangedReference =
  /** Rows whose column referred to the deleted row, and refers to `now` instead. */
  | {
      table: 'post' | 'category'
      column: 'category_id' | 'author_id' | 'image_id' | 'parent_id'
      was: number
      now: number | null
      ids: number[]
    }
  /** Posts that were given a tag. */
  | { table: 'post_tag'; tag: number; posts: number[] }

export interface Deletion {
  kind: DeletedKind
  /** The slug, path or name. */
  name: string
  title: string
  /** The rows to delete. Those of the first selection take the others with them. */
  rows: readonly RowSelection[]
  references?: readonly ChangedReference[]
}

/** Keeps rows and deletes them. @returns the id by which they can be restored */
export async function keepAndDelete(
  manager: EntityManager,
  { kind, name, title, rows, references = [] }: Deletion,
): Promise<number> {
  const kept: { table: KeptTable; rows: unknown }[] = []
  for (const selection of rows)
    kept.push({ table: selection.table, rows: await readRows(manager, selection) })
  await purgeDeletedRows(manager, KEPT_DAYS)
  const deleted = await manager.save(DeletedRowEntity, { kind, name, title, rows: kept, links: references })
  const [first] = rows
  if (first) await deleteRows(manager, first)
  return deleted.id
}

/** References that a row can do without if their target no longer exists. */
const OPTIONAL: Readonly<Partial<Record<KeptTable, Readonly<Record<string, KeptTable>>>>> = {
  post: { category_id: 'category', author_id: 'author', image_id: 'image' },
  category: { parent_id: 'category' },
}
/** References without which a row means nothing. It is not restored if a target no longer exists. */
const REQUIRED: Readonly<Partial<Record<KeptTable, Readonly<Record<string, KeptTable>>>>> = {
  post_tag: { post_id: 'post', tag_id: 'tag' },
}

export interface Restored {
  kind: DeletedKind
  /** The slug, path or name that it has now. */
  name: string
}

/** Restores deleted rows, and the references to them that were changed. */
export const restore = (writing: Writing, deleted: number): Promise<Outcome<Restored>> => {
  let kind: DeletedKind = 'post'
  return writing.attempt(
    async (part) => {
      const { manager } = part
      // A second, concurrent restore waits here and then finds nothing.
      const kept = await manager.findOne(DeletedRowEntity, {
        where: { id: deleted },
        lock: { mode: 'pessimistic_write' },
      })
      if (!kept) return unknown({ file: 'content', ...RESTORE_PROBLEMS['restore-unknown']() })
      kind = kept.kind as DeletedKind
      let { name } = kept
      for (const { table, rows } of kept.rows as { table: KeptTable; rows: KeptRow[] }[]) {
        let back: readonly KeptRow[] = await withoutMissingReferences(manager, table, rows)
        if (table === 'page') {
          const placed = await atCurrentPaths(manager, back)
          if (!placed.ok) return placed
          back = placed.value
          name = String(back[0]?.['path'] ?? name)
        }
        await insertRows(manager, table, back)
      }
      for (const reference of kept.links as ChangedReference[]) await restoreReference(manager, reference)
      await manager.delete(DeletedRowEntity, { id: deleted })
      if (kind !== 'image') await forgetSlug(manager, kind, name)
      return success({ kind, name })
    },
    (constraint) =>
      /_(slug|path|name)_key$/.test(constraint)
        ? blocked({ file: 'content', ...RESTORE_PROBLEMS['restore-name-taken'](kind) })
        : undefined,
  )
}

async function withoutMissingReferences(
  manager: EntityManager,
  table: KeptTable,
  rows: readonly KeptRow[],
): Promise<KeptRow[]> {
  const missing = async (references: Readonly<Record<string, KeptTable>>) => {
    const found = new Map<string, Set<unknown>>()
    for (const [column, target] of Object.entries(references)) {
      const ids = [...new Set(rows.map((row) => row[column]).filter((id) => id !== null))]
      const existing = await existingIds(manager, target, ids)
      found.set(column, new Set(ids.filter((id) => !existing.has(id))))
    }
    return found
  }
  const optional = await missing(OPTIONAL[table] ?? {})
  const required = await missing(REQUIRED[table] ?? {})
  return rows
    .filter((row) => ![...required].some(([column, ids]) => ids.has(row[column])))
    .map((row) => ({
      ...row,
      ...Object.fromEntries(
        [...optional].flatMap(([column, ids]) => (ids.has(row[column]) ? [[column, null]] : [])),
      ),
    }))
}

/** Gives pages the paths below their parent's current path. */
async function atCurrentPaths(
  manager: EntityManager,
  rows: readonly KeptRow[],
): Promise<Outcome<readonly KeptRow[]>> {
  const sorted = [...rows].sort((a, b) => String(a['path']).length - String(b['path']).length)
  const [top] = sorted
  if (!top) return success([])
  const was = String(top['path'])
  let now = String(top['slug'])
  if (top['parent_id'] !== null) {
    const parent = await manager.findOneBy(PageEntity, { id: Number(top['parent_id']) })
    if (!parent) return blocked({ file: 'content', ...RESTORE_PROBLEMS['restore-parent-missing']() })
    now = `${parent.path}/${now}`
  }
  return success(sorted.map((row) => ({ ...row, path: now + String(row['path']).slice(was.length) })))
}

async function restoreReference(manager: EntityManager, reference: ChangedReference): Promise<void> {
  if (reference.table === 'post_tag') {
    const { tag, posts } = reference
    await removeTagFromPosts(manager, tag, posts)
    return
  }
  const { table, column, was, now, ids } = reference
  const isPost = table === 'post'
  // A reference that was changed again in the meantime stays as it is.
  const field = column.replace(/_id$/, 'Id')
  await manager
    .createQueryBuilder()
    .update(isPost ? PostEntity : CategoryEntity)
    .set({ [field]: was, ...(isPost ? { version: () => 'version + 1' } : {}) })
    .where('id = ANY(:ids)', { ids })
    .andWhere(`${column} IS NOT DISTINCT FROM :now::int`, { now })
    .execute()
}

export interface ListedDeletion {
  id: number
  name: string
  title: string
  deletedAt: Date
}

/** Lists what can be restored, the latest first. */
export const listDeleted = (database: DataSource, kind: DeletedKind): Promise<ListedDeletion[]> =>
  database.getRepository(DeletedRowEntity).find({
    where: { kind },
    select: { id: true, name: true, title: true, deletedAt: true },
    order: { deletedAt: 'DESC', id: 'DESC' },
    take: LIST_LIMIT,
  })
