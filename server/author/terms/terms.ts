/** The use cases of terms, by which posts are grouped: categories (a tree), tags and authors. */
import type { DataSource, EntityManager } from 'typeorm'
import type { TermKind } from '../../../core/shapes/content-kinds.ts'
import {
  conflict,
  refused,
  success,
  unknown,
  type Failure,
  type Outcome,
} from '../../../core/shapes/outcome.ts'
import { SLUG_PROBLEMS } from '../../../core/slugs/problems.ts'
import { freeSlug, slugOf, slugProblem } from '../../../core/slugs/slug.ts'
import { lockTable } from '../../store/content/locks.ts'
import {
  isWithinCategory,
  TERM_ENTITY,
  termsWithPosts,
  type ListedTerm,
  type TermRow,
} from '../../store/content/terms.ts'
import { CategoryEntity } from '../../store/entities/content.ts'
import { ROW_PROBLEMS, TREE_PROBLEMS } from '../problems.ts'
import { forgetSlug, rememberSlug } from '../slugs/history.ts'
import type { Writing } from '../writing.ts'

export type Term = Omit<ListedTerm, 'id' | 'published' | 'scheduled' | 'draft'> & {
  posts: { published: number; scheduled: number; draft: number }
}

const TERM_SOURCE = { category: 'categories', tag: 'tags', author: 'authors' } as const

export const termFile = (kind: TermKind) => `content/${TERM_SOURCE[kind]}.yaml`

/** Lists categories as a tree, each before those below it, or tags and authors by name. */
export async function listTerms(database: DataSource | EntityManager, kind: TermKind): Promise<Term[]> {
  const rows = await termsWithPosts(database, kind)
  return rows.map(({ id: _, published, scheduled, draft, ...row }) => ({
    ...row,
    posts: { published, scheduled, draft },
  }))
}

export interface TermParts {
  name: string
  /** Derived from the name if absent. */
  slug?: string | undefined
  about?: string | undefined
  /** The slug of a category's parent; null for none. */
  parent?: string | null | undefined
}

export interface TermRef {
  slug: string
  /** The version that the author has read. */
  version: number
}

export interface SavedTerm {
  slug: string
  version: number
}

/** Maps violated constraints of a term to failures. */
const onViolation = (kind: TermKind, slug: string) => (constraint: string) => {
  if (constraint === `${kind}_slug_key`)
    return refused({ file: termFile(kind), path: '/slug', ...ROW_PROBLEMS['slug-taken'](kind, slug) })
  return constraint === 'category_tree_check' ? cycle() : undefined
}

const cycle = () =>
  refused({ file: termFile('category'), path: '/parent', ...TREE_PROBLEMS['tree-cycle']('category') })

/** Creates a term. A category becomes the last one below its parent. */
export const createTerm = (writing: Writing, kind: TermKind, parts: TermParts): Promise<Outcome<SavedTerm>> =>
  writing.attempt((part) => insertTerm(part, kind, parts), onViolation(kind, parts.slug ?? ''))

async function insertTerm(writing: Writing, kind: TermKind, parts: TermParts): Promise<Outcome<SavedTerm>> {
  const { manager } = writing
  const slug = parts.slug ?? (await freeTermSlug(writing, kind, parts.name))
  const problem = termProblem(writing, kind, parts, slug)
  if (problem) return problem
  const parent = kind === 'category' ? await parentOf(manager, parts.parent ?? null) : success(null)
  if (!parent.ok) return parent
  await manager.getRepository(TERM_ENTITY[kind]).insert({
    name: parts.name,
    slug,
    ...(kind === 'author' ? { about: parts.about ?? '' } : {}),
    ...(kind === 'category'
      ? { parentId: parent.value, position: await nextPosition(manager, parent.value) }
      : {}),
  })
  await forgetSlug(manager, kind, slug)
  writing.forgetNames()
  return success({ slug, version: 1 })
}

/** Saves a term. A former slug redirects. If `parent` is absent, a category stays where it is. */
export const saveTerm = (
  writing: Writing,
  kind: TermKind,
  ref: TermRef,
  parts: TermParts,
): Promise<Outcome<SavedTerm>> =>
  writing.attempt((part) => updateTerm(part, kind, ref, parts), onViolation(kind, parts.slug ?? ref.slug))

async function updateTerm(
  writing: Writing,
  kind: TermKind,
  ref: TermRef,
  parts: TermParts,
): Promise<Outcome<SavedTerm>> {
  const { manager } = writing
  const slug = parts.slug ?? ref.slug
  const problem = termProblem(writing, kind, parts, slug === ref.slug ? undefined : slug)
  if (problem) return problem
  const found = await lockTerm(manager, kind, ref)
  if (!found.ok) return found
  const row = found.value
  const place =
    kind === 'category' && parts.parent !== undefined
      ? await newPlace(manager, row, parts.parent)
      : success({ parentId: row.parentId ?? null, position: row.position ?? 0 })
  if (!place.ok) return place
  const about = parts.about ?? row.about ?? ''
  const version = row.version + 1
  await manager.getRepository(TERM_ENTITY[kind]).update(
    { id: row.id },
    {
      name: parts.name,
      slug,
      version,
      ...(kind === 'author' ? { about } : {}),
      ...(kind === 'category' ? place.value : {}),
    },
  )
  if (slug !== ref.slug) await rememberSlug(manager, kind, row.id, ref.slug, slug)
  return success({ slug, version })
}

/** Returns the place of a category as the last one below a parent, or below its current one as before. */
async function newPlace(
  manager: EntityManager,
  row: TermRow,
  parentSlug: string | null,
): Promise<Outcome<{ parentId: number | null; position: number }>> {
  const parent = await parentOf(manager, parentSlug)
  if (!parent.ok) return parent
  const parentId = parent.value
  if (parentId === (row.parentId ?? null)) return success({ parentId, position: row.position ?? 0 })
  if (parentId !== null && (await isWithinCategory(manager, row.id, parentId))) return cycle()
  return success({ parentId, position: await nextPosition(manager, parentId) })
}

export interface CategoryPlace {
  /** The slug of the parent; null for the top of the tree. */
  parent: string | null
  /** The slug of the sibling that it comes before; null for the last place. */
  before: string | null
}

/** Moves a category in the tree. */
export const placeCategory = (
  writing: Writing,
  ref: TermRef,
  to: CategoryPlace,
): Promise<Outcome<SavedTerm>> =>
  writing.attempt((part) => moveCategory(part, ref, to), onViolation('category', ref.slug))

async function moveCategory(writing: Writing, ref: TermRef, to: CategoryPlace): Promise<Outcome<SavedTerm>> {
  const { manager } = writing
  await lockTable(manager, 'category')
  const found = await lockTerm(manager, 'category', ref)
  if (!found.ok) return found
  const row = found.value
  const parent = await parentOf(manager, to.parent)
  if (!parent.ok) return parent
  const parentId = parent.value
  if (parentId !== null && (await isWithinCategory(manager, row.id, parentId))) return cycle()
  const siblings = await manager
    .createQueryBuilder(CategoryEntity, 'category')
    .where('category.parentId IS NOT DISTINCT FROM :parentId::int', { parentId })
    .andWhere('category.id <> :id', { id: row.id })
    .orderBy('category.position')
    .addOrderBy('category.id')
    .getMany()
  const at = to.before === null ? siblings.length : siblings.findIndex((one) => one.slug === to.before)
  if (at === -1)
    return refused({
      file: termFile('category'),
      path: '/before',
      ...TREE_PROBLEMS['tree-order-changed'](to.before ?? ''),
    })
  const version = row.version + 1
  const order = [...siblings.slice(0, at), undefined, ...siblings.slice(at)]
  for (const [position, sibling] of order.entries()) {
    if (sibling?.position === position) continue
    const id = sibling?.id ?? row.id
    const own = sibling ? {} : { parentId, version }
    await manager.update(CategoryEntity, { id }, { position, ...own })
  }
  return success({ slug: ref.slug, version })
}

/** Finds a term and locks its row until the transaction ends. */
export async function lockTerm(
  manager: EntityManager,
  kind: TermKind,
  { slug, version }: TermRef,
): Promise<Outcome<TermRow>> {
  const row = await lockedTerm(manager, kind, slug)
  const file = termFile(kind)
  if (!row) return unknown({ file, ...ROW_PROBLEMS['row-unknown'](kind, slug) })
  return row.version === version
    ? success(row)
    : conflict({ file, ...ROW_PROBLEMS['version-conflict'](`this ${kind}`) }, { version: row.version })
}

export const lockedTerm = (manager: EntityManager, kind: TermKind, slug: string): Promise<TermRow | null> =>
  manager.getRepository(TERM_ENTITY[kind]).findOne({ where: { slug }, lock: { mode: 'pessimistic_write' } })

async function parentOf(manager: EntityManager, slug: string | null): Promise<Outcome<number | null>> {
  if (slug === null) return success(null)
  const parent = await lockedTerm(manager, 'category', slug)
  return parent
    ? success(parent.id)
    : refused({
        file: termFile('category'),
        path: '/parent',
        ...TREE_PROBLEMS['tree-parent-unknown']('category', slug),
      })
}

async function nextPosition(manager: EntityManager, parentId: number | null): Promise<number> {
  const row = await manager
    .createQueryBuilder(CategoryEntity, 'category')
    .select('coalesce(max(category.position) + 1, 0)::int', 'next')
    .where('category.parentId IS NOT DISTINCT FROM :parentId::int', { parentId })
    .getRawOne<{ next: number }>()
  return row?.next ?? 0
}

async function freeTermSlug({ manager, definition }: Writing, kind: TermKind, name: string): Promise<string> {
  const { maximum, reserved } = definition.slugRules
  const base = slugOf(name, maximum)
  if (base === '') return ''
  const rows = await manager
    .createQueryBuilder(TERM_ENTITY[kind], 'term')
    .select('term.slug', 'slug')
    .where('starts_with(term.slug, :start)', { start: base.slice(0, Math.max(1, maximum - 12)) })
    .getRawMany<{ slug: string }>()
  const taken = new Set(rows.map((one) => one.slug))
  return freeSlug(base, (one) => taken.has(one) || reserved.has(one), maximum)
}

/** Returns the problems of a term's name, and of its slug if it is new. */
function termProblem(
  { definition }: Writing,
  kind: TermKind,
  parts: TermParts,
  slug: string | undefined,
): Failure | undefined {
  const file = termFile(kind)
  if (parts.name.trim() === '') return refused({ file, path: '/name', ...ROW_PROBLEMS['name-empty']() })
  if (slug === undefined) return undefined
  const problem =
    slug === '' && parts.slug === undefined
      ? SLUG_PROBLEMS['slug-not-derivable']('name')
      : slugProblem(slug, definition.slugRules)
  return problem && refused({ file, path: '/slug', ...problem })
}
