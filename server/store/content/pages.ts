/** Pages as a tree. */
import type { DataSource, EntityManager } from 'typeorm'

export interface PageInTree {
  path: string
  title: string
  slug: string
  /** The path of the parent page. */
  parent: string | null
  /** How many pages it is below. */
  depth: number
  inNavigation: boolean
  version: number
  updatedAt: Date
  html: string
}

/** Lists all pages in their order, each before those below it. */
export const pageTree = (database: DataSource | EntityManager): Promise<PageInTree[]> =>
  database.query<PageInTree[]>(
    `WITH RECURSIVE tree AS (
       SELECT page.*, 0 AS depth, NULL::text AS parent, ARRAY[position, id] AS place FROM page WHERE parent_id IS NULL
       UNION ALL SELECT child.*, tree.depth + 1, tree.path, tree.place || child.position || child.id
       FROM page child JOIN tree ON child.parent_id = tree.id)
     SELECT path, title, slug, parent, depth, in_navigation AS "inNavigation", version, updated_at AS "updatedAt", html
     FROM tree ORDER BY place`,
  )

/** Returns a page and all pages below it, parents first. */
export const pageSubtree = (manager: EntityManager, path: string): Promise<{ id: number; path: string }[]> =>
  manager.query<{ id: number; path: string }[]>(
    'SELECT id, path FROM page WHERE path = $1 OR starts_with(path, $2) ORDER BY length(path)',
    [path, `${path}/`],
  )
