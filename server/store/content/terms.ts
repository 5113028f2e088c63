/** Categories, tags and authors with their places and the posts that use them. */
import type { DataSource, EntityManager, EntityTarget } from 'typeorm'
import type { TermKind } from '../../../core/shapes/content-kinds.ts'
import { AuthorEntity, CategoryEntity, TagEntity } from '../entities/content.ts'

/** The columns that categories, tags and authors share, and those of only one of them. */
export interface TermRow {
  id: number
  name: string
  slug: string
  version: number
  about?: string
  parentId?: number | null
  position?: number
}

export const TERM_ENTITY: Readonly<Record<TermKind, EntityTarget<TermRow>>> = {
  category: CategoryEntity,
  tag: TagEntity,
  author: AuthorEntity,
}

export interface ListedTerm {
  id: number
  slug: string
  name: string
  version: number
  /** Only authors have one. */
  about: string | null
  /** The slug of a category's parent. */
  parent: string | null
  /** How many categories it is below. */
  depth: number
  published: number
  scheduled: number
  draft: number
  /** Slugs that redirect to it. */
  former: string[]
}

const POSTS_OF: Readonly<Record<TermKind, string>> = {
  category: 'SELECT category_id AS term_id, published_at FROM post WHERE category_id IS NOT NULL',
  author: 'SELECT author_id AS term_id, published_at FROM post WHERE author_id IS NOT NULL',
  tag: 'SELECT link.tag_id AS term_id, post.published_at FROM post_tag link JOIN post ON post.id = link.post_id',
}

/** Lists categories as a tree, each before those below it, or tags and authors by name. */
export async function termsWithPosts(
  database: DataSource | EntityManager,
  kind: TermKind,
): Promise<ListedTerm[]> {
  const tree =
    kind === 'category'
      ? `SELECT term.*, 0 AS depth, NULL::text AS parent, ARRAY[position, id] AS place FROM category term WHERE parent_id IS NULL
         UNION ALL SELECT child.*, tree.depth + 1, tree.slug, tree.place || child.position || child.id
         FROM category child JOIN tree ON child.parent_id = tree.id`
      : `SELECT term.*, 0 AS depth, NULL::text AS parent, ARRAY[0, 0] AS place FROM ${kind} term`
  return await database.query<ListedTerm[]>(
    `WITH RECURSIVE tree AS (${tree}),
       counted AS (SELECT term_id, count(*) FILTER (WHERE published_at <= now())::int AS published,
         count(*) FILTER (WHERE published_at > now())::int AS scheduled,
         count(*) FILTER (WHERE published_at IS NULL)::int AS draft FROM (${POSTS_OF[kind]}) posts GROUP BY term_id)
     SELECT id, slug, name, version, ${kind === 'author' ? 'about' : 'NULL AS about'}, parent, depth,
       coalesce(published, 0) AS published, coalesce(scheduled, 0) AS scheduled, coalesce(draft, 0) AS draft,
       ARRAY(SELECT former.slug FROM former_slug former WHERE former.${kind}_id = tree.id ORDER BY created_at DESC, former.id DESC) AS former
     FROM tree LEFT JOIN counted ON counted.term_id = tree.id
     ORDER BY ${kind === 'category' ? 'place' : 'name, id'}`,
  )
}

/** Returns true if a category is another one, or below it at any depth. */
export async function isWithinCategory(
  manager: EntityManager,
  outer: number,
  inner: number,
): Promise<boolean> {
  const rows = await manager.query<{ id: number }[]>(
    `WITH RECURSIVE up AS (SELECT id, parent_id FROM category WHERE id = $1
       UNION SELECT category.id, category.parent_id FROM category JOIN up ON category.id = up.parent_id)
     SELECT id FROM up WHERE id = $2`,
    [inner, outer],
  )
  return rows.length > 0
}

/** Gives posts a tag. @returns the ids of the posts that did not have it */
export async function addTagToPosts(
  manager: EntityManager,
  tag: number,
  posts: readonly number[],
): Promise<number[]> {
  const added = await manager.query<{ post_id: number }[]>(
    'INSERT INTO post_tag (post_id, tag_id) SELECT id, $2 FROM unnest($1::int[]) id ON CONFLICT DO NOTHING RETURNING post_id',
    [posts, tag],
  )
  return added.map((one) => one.post_id)
}

export async function removeTagFromPosts(
  manager: EntityManager,
  tag: number,
  posts: readonly number[],
): Promise<void> {
  await manager.query('DELETE FROM post_tag WHERE tag_id = $1 AND post_id = ANY($2)', [tag, posts])
}
