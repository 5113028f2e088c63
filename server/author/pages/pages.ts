/** The use cases of pages: list, create, save, move and delete. Pages form a tree. */
import type { DataSource, EntityManager } from 'typeorm'
import type { HtmlRules } from '../../../core/content/html/allow-list.ts'
import { renderedText } from '../texts/rendered-text.ts'
import { pipelineOf } from '../../../core/content/html/markdown.ts'
import { countWords, plainText } from '../../../core/content/text.ts'
import { conflict, refused, success, unknown, type Outcome } from '../../../core/shapes/outcome.ts'
import { SLUG_PROBLEMS } from '../../../core/slugs/problems.ts'
import { freeSlug, slugOf, slugProblem } from '../../../core/slugs/slug.ts'
import { pageSubtree, pageTree, type PageInTree } from '../../store/content/pages.ts'
import { lockTable } from '../../store/content/locks.ts'
import { PageEntity } from '../../store/entities/content.ts'
import { keepAndDelete } from '../deleted/deleted.ts'
import { ROW_PROBLEMS, TREE_PROBLEMS } from '../problems.ts'
import { forgetSlug } from '../slugs/history.ts'
import { movePage } from '../slugs/move-page.ts'
import { loadImageSizes } from '../texts/image-sizes.ts'
import type { Writing } from '../writing.ts'
import { pagePath, pageProblems, readPageFile, type PageParts } from './page-file.ts'

export type ListedPage = Omit<PageInTree, 'html'> & { wordCount: number }

/** Lists all pages in their order, each before those below it. */
export async function listPages(database: DataSource | EntityManager): Promise<ListedPage[]> {
  const rows = await pageTree(database)
  return rows.map(({ html, ...page }) => ({ ...page, wordCount: countWords(plainText(html)) }))
}

export interface PageRef {
  path: string
  /** The version that the author has read. */
  version: number
}

export interface SavedPage {
  path: string
  version: number
  /** Paths that redirect from now on. */
  former: string[]
}

const UNIQUE_PATH = 'page_path_key'

const pathTaken = (path: string) =>
  refused({ file: pagePath(path), path: '/slug', ...ROW_PROBLEMS['path-taken'](path) })

/** Returns the columns of a page's text, with rendered HTML. */
async function textColumns(
  manager: EntityManager,
  file: string,
  { title, body, inNavigation }: PageParts,
  rules: HtmlRules,
) {
  const rendered = await renderedText(file, body, { rules, sizeOf: await loadImageSizes(manager) })
  if (!rendered.ok) return rendered
  return success({ title, body, html: rendered.value.html, pipeline: pipelineOf(rules), inNavigation })
}

export type NewPage = PageParts & { slug?: string | undefined; parent?: string | null | undefined }

/** Creates a page as the last one below its parent. Without a slug, a free one is derived from the title. */
export const createPage = (writing: Writing, parts: NewPage): Promise<Outcome<SavedPage>> =>
  writing.attempt(
    (part) => insertPage(part, parts),
    (constraint) => (constraint === UNIQUE_PATH ? pathTaken(parts.slug ?? 'new-page') : undefined),
  )

async function insertPage(writing: Writing, parts: NewPage): Promise<Outcome<SavedPage>> {
  const { manager, definition } = writing
  const { slugRules, htmlRules } = definition
  const file = pagePath(parts.slug ?? 'new-page')
  const problems = pageProblems(parts.slug ?? 'new-page', parts)
  if (problems.length > 0) return refused(...problems)
  // One creation at a time, so that a free slug stays free until it is taken.
  await lockTable(manager, 'page')
  const parentPath = parts.parent ?? null
  const parent = parentPath === null ? null : await manager.findOneBy(PageEntity, { path: parentPath })
  if (parentPath !== null && !parent)
    return refused({
      file,
      path: '/parent',
      ...TREE_PROBLEMS['tree-parent-unknown']('page', parentPath),
    })
  const siblings = await siblingsOf(manager, parent?.id ?? null)
  const taken = new Set(siblings.map((one) => one.slug))
  const derived = slugOf(parts.title, slugRules.maximum)
  const slug =
    parts.slug ??
    (derived === ''
      ? ''
      : freeSlug(derived, (one) => taken.has(one) || slugRules.reserved.has(one), slugRules.maximum))
  if (slug === '' && parts.slug === undefined)
    return refused({ file, path: '/slug', ...SLUG_PROBLEMS['slug-not-derivable']('title') })
  const problem = slugProblem(slug, slugRules)
  if (problem) return refused({ file, path: '/slug', ...problem })
  const path = parent ? `${parent.path}/${slug}` : slug
  if (taken.has(slug)) return pathTaken(path)
  const columns = await textColumns(manager, file, parts, htmlRules)
  if (!columns.ok) return columns
  await manager.insert(PageEntity, {
    ...columns.value,
    path,
    slug,
    parentId: parent?.id ?? null,
    position: siblings.reduce((last, one) => Math.max(last, one.position), -1) + 1,
  })
  await forgetSlug(manager, 'page', path)
  return success({ path, version: 1, former: [] })
}

/** Returns the pages directly below a page, in their order. */
const siblingsOf = (manager: EntityManager, parent: number | null): Promise<PageEntity[]> =>
  manager
    .createQueryBuilder(PageEntity, 'page')
    .select(['page.id', 'page.path', 'page.slug', 'page.position'])
    .where('page.parentId IS NOT DISTINCT FROM :parent::int', { parent })
    .orderBy('page.position')
    .addOrderBy('page.id')
    .getMany()

async function lockPage(manager: EntityManager, { path, version }: PageRef): Promise<Outcome<PageEntity>> {
  const page = await manager.findOne(PageEntity, { where: { path }, lock: { mode: 'pessimistic_write' } })
  const file = pagePath(path)
  if (!page) return unknown({ file, ...ROW_PROBLEMS['row-unknown']('page', path) })
  return page.version === version
    ? success(page)
    : conflict(
        { file, ...ROW_PROBLEMS['version-conflict']('this page') },
        { version: page.version, text: page.body },
      )
}

/** Saves a page's title and text. `placePage` changes its place and path. */
export async function savePage(
  writing: Writing,
  ref: PageRef,
  parts: PageParts,
  position?: number,
): Promise<Outcome<SavedPage>> {
  const { manager, definition } = writing
  const problems = pageProblems(ref.path, parts)
  if (problems.length > 0) return refused(...problems)
  const found = await lockPage(manager, ref)
  if (!found.ok) return found
  const page = found.value
  const columns = await textColumns(manager, pagePath(ref.path), parts, definition.htmlRules)
  if (!columns.ok) return columns
  const version = page.version + 1
  const placed = position === undefined ? {} : { position }
  await manager.update(
    PageEntity,
    { id: page.id },
    { ...columns.value, ...placed, version, updatedAt: () => 'now()' },
  )
  return success({ path: page.path, version, former: [] })
}

/** Saves a page from its file. */
export async function savePageFile(
  writing: Writing,
  ref: PageRef,
  text: string,
): Promise<Outcome<SavedPage>> {
  const read = readPageFile(ref.path, text)
  return read.ok ? await savePage(writing, ref, read.value.parts, read.value.position) : read
}

export interface PagePlace {
  /** The path of the parent page; null for the top of the tree. */
  parent: string | null
  /** The path of the sibling that it comes before; null for the last place. */
  before: string | null
  slug?: string | undefined
}

/** Moves a page with the pages below it, or gives it another slug. Former paths redirect. */
export const placePage = (writing: Writing, ref: PageRef, to: PagePlace): Promise<Outcome<SavedPage>> =>
  writing.attempt(
    (part) => movePageTo(part, ref, to),
    (constraint) =>
      constraint === UNIQUE_PATH
        ? pathTaken(to.slug ?? ref.path)
        : constraint === 'page_tree_check'
          ? refused({ file: pagePath(ref.path), path: '/parent', ...TREE_PROBLEMS['tree-cycle']('page') })
          : undefined,
  )

async function movePageTo(writing: Writing, ref: PageRef, to: PagePlace): Promise<Outcome<SavedPage>> {
  const { manager, definition } = writing
  await lockTable(manager, 'page')
  const found = await lockPage(manager, ref)
  if (!found.ok) return found
  const page = found.value
  const file = pagePath(ref.path)
  const slug = to.slug ?? page.slug
  const problem = slug === page.slug ? undefined : slugProblem(slug, definition.slugRules)
  if (problem) return refused({ file, path: '/slug', ...problem })
  const path = to.parent === null ? slug : `${to.parent}/${slug}`
  const moved = await movePage(writing, page.path, path)
  if (!moved.ok) return moved
  const parent = to.parent === null ? null : await manager.findOneBy(PageEntity, { path: to.parent })
  // Read after the move: the page may now be before one of its former siblings.
  const siblings = await siblingsOf(manager, parent?.id ?? null)
  const others = siblings.filter((one) => one.id !== page.id)
  const at = to.before === null ? others.length : others.findIndex((one) => one.path === to.before)
  if (at === -1)
    return refused({
      file,
      path: '/before',
      ...TREE_PROBLEMS['tree-order-changed'](to.before ?? ''),
    })
  const own = siblings.find((one) => one.id === page.id)
  const order = own ? [...others.slice(0, at), own, ...others.slice(at)] : others
  let isReordered = false
  for (const [position, one] of order.entries()) {
    if (one.position === position) continue
    await manager.update(PageEntity, { id: one.id }, { position })
    isReordered = true
  }
  // A move to another path has already counted as a new version. A move among siblings counts here.
  const isMoved = moved.value.former.length > 0
  if (!isMoved && isReordered)
    await manager.update(PageEntity, { id: page.id }, { version: () => 'version + 1' })
  const version = page.version + (isMoved || isReordered ? 1 : 0)
  return success({ path, version, former: moved.value.former })
}

export interface DeletedPages {
  /** The id by which they can be restored. */
  deleted: number
  title: string
  /** How many pages were deleted. */
  pages: number
}

/** Deletes a page with all pages below it. They can be restored together. */
export async function deletePage(writing: Writing, ref: PageRef): Promise<Outcome<DeletedPages>> {
  const { manager } = writing
  await lockTable(manager, 'page')
  const found = await lockPage(manager, ref)
  if (!found.ok) return found
  const page = found.value
  const subtree = await pageSubtree(manager, page.path)
  const values = subtree.map((one) => one.id)
  const deleted = await keepAndDelete(manager, {
    kind: 'page',
    name: page.path,
    title: page.title,
    rows: [
      { table: 'page', column: 'id', values },
      { table: 'former_slug', column: 'page_id', values },
    ],
  })
  return success({ deleted, title: page.title, pages: values.length })
}
