/** Moves a page, with all pages below it, to another path. All former paths redirect. */
import { refused, success, unknown, type Outcome } from '../../../core/shapes/outcome.ts'
import { pageSubtree } from '../../store/content/pages.ts'
import { lockTable } from '../../store/content/locks.ts'
import { PageEntity } from '../../store/entities/content.ts'
import { ROW_PROBLEMS, TREE_PROBLEMS } from '../problems.ts'
import type { Writing } from '../writing.ts'
import { rememberSlug } from './history.ts'

export interface MovedPage {
  /** The path from now on. */
  current: string
  /** The paths that redirect from now on. */
  former: string[]
}

export async function movePage(writing: Writing, from: string, to: string): Promise<Outcome<MovedPage>> {
  const { manager } = writing
  const problem = { file: `content/pages/${from}.md`, path: '/path' }
  // One move at a time, each based on the tree that the one before left.
  await lockTable(manager, 'page')
  const subtree = await pageSubtree(manager, from)
  const [page] = subtree
  if (page?.path !== from) return unknown({ ...problem, ...ROW_PROBLEMS['row-unknown']('page', from) })
  if (from === to) return success({ current: to, former: [] })
  if (to.startsWith(`${from}/`)) return refused({ ...problem, ...TREE_PROBLEMS['tree-cycle']('page') })
  const parentPath = to.includes('/') ? to.slice(0, to.lastIndexOf('/')) : null
  const parent = parentPath === null ? null : await manager.findOneBy(PageEntity, { path: parentPath })
  if (parentPath !== null && !parent)
    return refused({ ...problem, ...TREE_PROBLEMS['tree-parent-unknown']('page', parentPath) })
  if (await manager.existsBy(PageEntity, { path: to }))
    return refused({ ...problem, path: '/slug', ...ROW_PROBLEMS['path-taken'](to) })
  await manager.update(
    PageEntity,
    { id: page.id },
    {
      parentId: parent?.id ?? null,
      slug: to.split('/').at(-1) ?? to,
      version: () => 'version + 1',
      updatedAt: () => 'now()',
    },
  )
  for (const one of subtree) {
    const path = to + one.path.slice(from.length)
    await manager.update(PageEntity, { id: one.id }, { path })
    await rememberSlug(manager, 'page', one.id, one.path, path)
  }
  return success({ current: to, former: subtree.map((one) => one.path) })
}
