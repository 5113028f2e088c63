/** Where the slugs of each kind of row are stored, and the lookup of former slugs. */
import type { Queryable } from './connection.ts'
import { SLUG_KINDS, type SlugKind } from '../../core/shapes/content-kinds.ts'
import type { SourceName } from '../../core/shapes/schemas.ts'

interface SlugTable {
  source: SourceName
  /** The unique column: a page is named by its path. */
  column: 'slug' | 'path'
  /** SQL of which rows readers can see, for a table under the name `owner`. */
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

/** The kind whose rows a query's unique field names, e.g. posts by their slug. */
export function slugKindOf(source: SourceName, field: string): SlugKind | undefined {
  return SLUG_KINDS.find((kind) => SLUG_TABLE[kind].source === source && SLUG_TABLE[kind].column === field)
}

export interface FormerSlug {
  /** Slug, or path of a page, that the row has now. */
  current: string
  title: string
}

/** The row that had a slug before, if a reader (or the author) may see it. */
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

/** PostgreSQL's unique_violation: somebody else was faster; the constraint has the last word. */
export const isUniqueViolation = (error: unknown): boolean =>
  typeof error === 'object' && error !== null && 'code' in error && error.code === '23505'
