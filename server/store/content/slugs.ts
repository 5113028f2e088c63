/** Where the slugs of each kind of row are stored, and lookups by current and former slugs. */
import type { EntityTarget, EntityManager } from 'typeorm'
import { SIMILAR_SLUGS, type Queryable } from '../connection.ts'
import { SLUG_KINDS, type SlugKind } from '../../../core/shapes/content-kinds.ts'
import type { SourceName } from '../../../core/shapes/schemas.ts'
import { AuthorEntity, CategoryEntity, PageEntity, PostEntity, TagEntity } from '../entities/content.ts'
import { FormerSlugEntity } from '../entities/history.ts'

interface SlugTable {
  source: SourceName
  /** The unique column. A page is identified by its path. */
  column: 'slug' | 'path'
  /** SQL condition for the rows that readers can see, for a table with the alias `owner`. */
  visible: string
  title: 'title' | 'name'
}

export const SLUG_TABLE: Readonly<Record<SlugKind, SlugTable>> = {
  post: { source: 'posts', column: 'slug', visible: 'owner.published_at <= now()', title: 'title' },
  page: { source: 'pages', column: 'path', visible: 'true', title: 'title' },
  category: { source: 'categories', column: 'slug', visible: 'true', title: 'name' },
  tag: { source: 'tags', column: 'slug', visible: 'true', title: 'name' },
  author: { source: 'authors', column: 'slug', visible: 'true', title: 'name' },
}

/** The columns that all rows with a slug have. */
export interface SlugRow {
  id: number
  slug: string
  version: number
}

/** The entity of each kind of row that has a slug. */
export const SLUG_ENTITY: Readonly<Record<SlugKind, EntityTarget<SlugRow>>> = {
  post: PostEntity,
  page: PageEntity,
  category: CategoryEntity,
  tag: TagEntity,
  author: AuthorEntity,
}

/** The column of a former slug that refers to the row of each kind. */
export const FORMER_SLUG_OWNER = {
  post: 'postId',
  page: 'pageId',
  category: 'categoryId',
  tag: 'tagId',
  author: 'authorId',
} as const satisfies Record<SlugKind, keyof FormerSlugEntity>

/** Returns the kind of row that a unique field of a source identifies, e.g. posts by their slug. */
export function slugKindOf(source: SourceName, field: string): SlugKind | undefined {
  return SLUG_KINDS.find((kind) => SLUG_TABLE[kind].source === source && SLUG_TABLE[kind].column === field)
}

export interface FormerSlug {
  /** The current slug of the row, or the current path of a page. */
  current: string
  title: string
}

/** Finds the row that had a slug before, if a reader (or the author) may see it. */
export async function findFormer(
  pool: Queryable,
  kind: SlugKind,
  slug: string,
  as: 'reader' | 'author',
): Promise<FormerSlug | undefined> {
  const { column, visible, title } = SLUG_TABLE[kind]
  const { rows } = await pool.query<FormerSlug>({
    name: `former ${kind} ${as}`,
    text: `SELECT owner.${column} AS current, owner.${title} AS title FROM former_slug former
      JOIN ${kind} owner ON owner.id = former.${kind}_id
      WHERE former.kind = '${kind}' AND former.slug = $1 AND ${as === 'author' ? 'true' : visible}`,
    values: [slug],
  })
  return rows[0]
}

/** Returns the former slugs of a row, the latest first. */
export async function formerSlugsOf(
  manager: EntityManager,
  kind: SlugKind,
  owner: number,
): Promise<string[]> {
  const rows = await manager.getRepository(FormerSlugEntity).find({
    where: { [FORMER_SLUG_OWNER[kind]]: owner },
    select: { slug: true },
    order: { createdAt: 'DESC', id: 'DESC' },
  })
  return rows.map((one) => one.slug)
}

/** Returns all slugs (paths of pages) that start with a text, with the titles of their rows. */
export async function slugsStartingWith(
  pool: Queryable,
  kind: SlugKind,
  start: string,
): Promise<Map<string, string>> {
  const { column, title } = SLUG_TABLE[kind]
  const { rows } = await pool.query<{ slug: string; title: string }>(
    `SELECT ${column} AS slug, ${title} AS title FROM ${kind} WHERE starts_with(${column}, $1)`,
    [start],
  )
  return new Map(rows.map((row) => [row.slug, row.title]))
}

export interface SlugOwner {
  slug: string
  title: string
}

/** Returns the rows that readers can see which have one of the slugs. */
export async function visibleRowsBySlug(
  pool: Queryable,
  kind: SlugKind,
  slugs: readonly string[],
): Promise<SlugOwner[]> {
  const { title, visible, column } = SLUG_TABLE[kind]
  const { rows } = await pool.query<SlugOwner>(
    `SELECT owner.${column} AS slug, owner.${title} AS title FROM ${kind} owner WHERE ${visible} AND owner.${column} = ANY($1)`,
    [slugs],
  )
  return rows
}

/** Returns former slugs of rows that readers can see, the oldest first. */
export async function visibleFormerSlugs(
  pool: Queryable,
  kind: SlugKind,
  limit: number,
): Promise<SlugOwner[]> {
  const { title, visible } = SLUG_TABLE[kind]
  const { rows } = await pool.query<SlugOwner>(
    `SELECT former.slug, owner.${title} AS title FROM former_slug former JOIN ${kind} owner ON owner.id = former.${kind}_id
     WHERE ${visible} ORDER BY former.id LIMIT $1`,
    [limit],
  )
  return rows
}

export interface SluggedRow extends SlugOwner {
  isPublic: boolean
}

/** Returns rows of a kind with their slugs, unpublished posts first, and the total number. */
export async function sluggedRows(
  pool: Queryable,
  kind: SlugKind,
  limit: number,
): Promise<{ rows: SluggedRow[]; total: number }> {
  const { column, title, visible } = SLUG_TABLE[kind]
  const { rows } = await pool.query<SluggedRow & { total: number }>(
    `SELECT owner.${column} AS slug, owner.${title} AS title, coalesce(${visible}, false) AS "isPublic", count(*) OVER ()::int AS total
     FROM ${kind} owner ORDER BY ${kind === 'post' ? 'coalesce(owner.published_at <= now(), false), ' : ''}owner.id LIMIT $1`,
    [limit],
  )
  return { rows: rows.map(({ total: _, ...row }) => row), total: rows[0]?.total ?? 0 }
}

/** Returns rows that readers can see whose slugs are similar to a text by their trigrams, the most similar first. */
export async function rowsWithSimilarSlug(
  pool: Queryable,
  kind: SlugKind,
  text: string,
  limit: number,
): Promise<SlugOwner[]> {
  const { column, title, visible } = SLUG_TABLE[kind]
  const { rows } = await pool.query<SlugOwner>({
    name: `nearest ${kind}`,
    text: `SELECT owner.${column} AS slug, owner.${title} AS title FROM ${kind} owner
      WHERE ${visible} AND owner.${column} % $1 AND similarity(owner.${column}, $1) >= $3 ORDER BY similarity(owner.${column}, $1) DESC, owner.id LIMIT $2`,
    // The operator is for the index; its threshold is a setting of the session.
    values: [text, limit, SIMILAR_SLUGS],
  })
  return rows
}
