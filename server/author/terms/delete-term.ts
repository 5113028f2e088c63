/** Deletes a category, tag or author, or merges it into another one, which gets its posts and its address. */
import type { EntityManager, QueryDeepPartialEntity } from 'typeorm'
import type { TermKind } from '../../../core/shapes/content-kinds.ts'
import { blocked, refused, success, unknown, type Outcome } from '../../../core/shapes/outcome.ts'
import type { RowSelection } from '../../store/content/kept-rows.ts'
import { lockTable } from '../../store/content/locks.ts'
import { formerSlugsOf } from '../../store/content/slugs.ts'
import { addTagToPosts, isWithinCategory, type TermRow } from '../../store/content/terms.ts'
import { CategoryEntity, PostEntity } from '../../store/entities/content.ts'
import { keepAndDelete, type ChangedReference } from '../deleted/deleted.ts'
import { ROW_PROBLEMS, TERM_PROBLEMS } from '../problems.ts'
import { rememberSlug } from '../slugs/history.ts'
import type { Writing } from '../writing.ts'
import { lockedTerm, lockTerm, termFile, type TermRef } from './terms.ts'

export interface DeletedTerm {
  /** The id by which it can be restored. */
  deleted: number
  name: string
  /** How many posts used it. */
  posts: number
}

export interface TermDeletion {
  /** The slug of the term to merge into; null to delete without a replacement. */
  into: string | null
  /** Whether to delete a term that posts use and that is not merged. */
  evenIfUsed: boolean
}

export async function deleteTerm(
  writing: Writing,
  kind: TermKind,
  ref: TermRef,
  { into, evenIfUsed }: TermDeletion,
): Promise<Outcome<DeletedTerm>> {
  const { manager } = writing
  const place = { file: termFile(kind), path: '/into' }
  if (kind === 'category') await lockTable(manager, 'category')
  const found = await lockTerm(manager, kind, ref)
  if (!found.ok) return found
  const row = found.value
  const target = into === null ? null : await lockedTerm(manager, kind, into)
  if (into !== null) {
    if (!target) return unknown({ ...place, ...ROW_PROBLEMS['row-unknown'](kind, into) })
    if (target.id === row.id) return refused({ ...place, ...TERM_PROBLEMS['term-merged-into-itself'](kind) })
    if (kind === 'category' && (await isWithinCategory(manager, row.id, target.id)))
      return refused({ ...place, ...TERM_PROBLEMS['term-merged-into-descendant'](target.name) })
  }
  const posts = await lockPosts(manager, kind, row.id)
  if (posts.length > 0 && !target && !evenIfUsed)
    return blocked({ file: termFile(kind), ...TERM_PROBLEMS['term-in-use'](kind, posts.length) })
  const references = await replaceReferences(manager, kind, row, target?.id ?? null, posts)
  const former = await formerSlugsOf(manager, kind, row.id)
  const values = [row.id]
  const rows: RowSelection[] = [
    { table: kind, column: 'id', values },
    ...(kind === 'tag' ? [{ table: 'post_tag' as const, column: 'tag_id', values }] : []),
    { table: 'former_slug', column: `${kind}_id`, values },
  ]
  const deleted = await keepAndDelete(manager, {
    kind,
    name: ref.slug,
    title: row.name,
    rows,
    references,
  })
  if (target)
    for (const slug of [ref.slug, ...former]) await rememberSlug(manager, kind, target.id, slug, target.slug)
  writing.forgetNames()
  return success({ deleted, name: row.name, posts: posts.length })
}

/** Returns the ids of the posts that use a term, and locks their rows. */
async function lockPosts(manager: EntityManager, kind: TermKind, term: number): Promise<number[]> {
  const posts = manager.createQueryBuilder(PostEntity, 'post').select(['post.id'])
  if (kind === 'tag') posts.innerJoin('post.tags', 'tag', 'tag.id = :term', { term })
  else posts.where(`post.${kind}Id = :term`, { term })
  const found = await posts.orderBy('post.id').setLock('pessimistic_write', undefined, ['post']).getMany()
  return found.map((one) => one.id)
}

/** Makes posts, and categories below it, refer to something else. @returns what restoring has to undo */
async function replaceReferences(
  manager: EntityManager,
  kind: TermKind,
  row: TermRow,
  target: number | null,
  posts: readonly number[],
): Promise<ChangedReference[]> {
  const version = () => 'version + 1'
  if (kind === 'tag') {
    await updatePosts(manager, posts, { version })
    return target === null
      ? []
      : [{ table: 'post_tag', tag: target, posts: await addTagToPosts(manager, target, posts) }]
  }
  await updatePosts(manager, posts, { [`${kind}Id`]: target, version })
  const references: ChangedReference[] = [
    { table: 'post', column: `${kind}_id`, was: row.id, now: target, ids: [...posts] },
  ]
  if (kind !== 'category') return references
  // Categories below it move up to its parent, or into the category that it is merged into.
  const now = target ?? row.parentId ?? null
  const children = await manager.findBy(CategoryEntity, { parentId: row.id })
  const ids = children.map((one) => one.id)
  await manager.update(CategoryEntity, { parentId: row.id }, { parentId: now })
  return [...references, { table: 'category', column: 'parent_id', was: row.id, now, ids }]
}

const updatePosts = (
  manager: EntityManager,
  ids: readonly number[],
  columns: QueryDeepPartialEntity<PostEntity>,
) => manager.createQueryBuilder().update(PostEntity).set(columns).where('id = ANY(:ids)', { ids }).execute()
