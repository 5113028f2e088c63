/** Categories, tags and authors: what posts are sorted by. Listed with counts, made, changed, merged, deleted. */
import type { DataSource, EntityManager } from 'typeorm'
import type { Change } from '../../../core/caching/purge.ts'
import type { TermKind } from '../../../core/shapes/content-kinds.ts'
import type { Problem } from '../../../core/shapes/problem.ts'
import { freeSlug, slugFault, slugOf, type SlugRules } from '../../../core/slugs/slug.ts'
import type { Blog } from '../../reader/blog.ts'
import { forgetSlug, rememberSlug } from '../slugs/slugs.ts'
import { isUniqueViolation } from '../../store/slugs.ts'

export interface Term {
  slug: string
  name: string
  version: number
  /** Of an author. */
  about: string | null
  /** Of a category: the slug of the one it is in. */
  parent: string | null
  /** How many categories it is in. */
  depth: number
  posts: { published: number; scheduled: number; draft: number }
  /** Slugs that lead here. */
  former: string[]
}

interface TermRow extends Omit<Term, 'posts'> {
  id: number
  published: number
  scheduled: number
  draft: number
}

export const TERM_SOURCE = { category: 'categories', tag: 'tags', author: 'authors' } as const

const POSTS_OF: Readonly<Record<TermKind, string>> = {
  category: 'SELECT category_id AS term_id, published_at FROM post WHERE category_id IS NOT NULL',
  author: 'SELECT author_id AS term_id, published_at FROM post WHERE author_id IS NOT NULL',
  tag: 'SELECT link.tag_id AS term_id, post.published_at FROM post_tag link JOIN post ON post.id = link.post_id',
}

/** Categories as a tree, each before what is in it; tags and authors by name. */
export async function listTerms(database: DataSource | EntityManager, kind: TermKind): Promise<Term[]> {
  const tree =
    kind === 'category'
      ? `SELECT term.*, 0 AS depth, NULL::text AS parent, ARRAY[position, id] AS place FROM category term WHERE parent_id IS NULL
         UNION ALL SELECT child.*, tree.depth + 1, tree.slug, tree.place || child.position || child.id
         FROM category child JOIN tree ON child.parent_id = tree.id`
      : `SELECT term.*, 0 AS depth, NULL::text AS parent, ARRAY[0, 0] AS place FROM ${kind} term`
  const rows = await database.query<TermRow[]>(
    `WITH RECURSIVE tree AS (${tree}),
       counted AS (SELECT term_id, count(*) FILTER (WHERE published_at <= now())::int AS published,
         count(*) FILTER (WHERE published_at > now())::int AS scheduled,
         count(*) FILTER (WHERE published_at IS NULL)::int AS draft FROM (${POSTS_OF[kind]}) posts GROUP BY term_id)
     SELECT slug, name, version, ${kind === 'author' ? 'about' : 'NULL AS about'}, parent, depth,
       coalesce(published, 0) AS published, coalesce(scheduled, 0) AS scheduled, coalesce(draft, 0) AS draft,
       ARRAY(SELECT former.slug FROM former_slug former WHERE former.${kind}_id = tree.id ORDER BY created_at DESC) AS former
     FROM tree LEFT JOIN counted ON counted.term_id = tree.id
     ORDER BY ${kind === 'category' ? 'place' : 'name, id'}`,
  )
  return rows.map(({ published, scheduled, draft, ...row }) => ({
    ...row,
    posts: { published, scheduled, draft },
  }))
}

export interface TermParts {
  name: string
  /** Absent: made of the name. */
  slug?: string | undefined
  about?: string | undefined
  /** Slug of the category it is in; null for none. */
  parent?: string | null | undefined
}

export interface TermRef {
  slug: string
  version: number
}

interface Refused {
  outcome: 'problems'
  problems: Problem[]
}
export type TermResult =
  | { outcome: 'saved'; slug: string; version: number; purged: string[] }
  | Refused
  | { outcome: 'conflict'; version: number }
  | { outcome: 'unknown' }

export const problem = (kind: TermKind, path: string, message: string, hint?: string): Refused => ({
  outcome: 'problems',
  problems: [
    { file: `content/${TERM_SOURCE[kind]}.yaml`, path, message, ...(hint === undefined ? {} : { hint }) },
  ],
})
const taken = (kind: TermKind, slug: string) =>
  problem(kind, '/slug', `another ${kind} has the slug “${slug}”`)

/** Makes one; a category comes last among those beside it. */
export async function createTerm(blog: Blog, kind: TermKind, parts: TermParts): Promise<TermResult> {
  const rules = blog.site.definition.slugRules
  const made = await guarded(kind, parts.slug ?? '', () =>
    blog.database.transaction(async (manager): Promise<TermResult & { change?: Change }> => {
      const slug = parts.slug ?? (await freeTermSlug(manager, kind, parts.name, rules))
      const wrong = wrongIn(kind, parts, slug, rules)
      if (wrong) return wrong
      const parent = await parentOf(manager, kind, parts.parent ?? null)
      if (parent === undefined)
        return problem(kind, '/parent', `there is no category “${parts.parent ?? ''}”`)
      const columns: [string, unknown][] = [
        ['name', parts.name],
        ['slug', slug],
        ...(kind === 'author' ? ([['about', parts.about ?? '']] as [string, unknown][]) : []),
        ...(kind === 'category'
          ? ([
              ['parent_id', parent],
              ['position', await nextPosition(manager, parent)],
            ] as [string, unknown][])
          : []),
      ]
      const [row] = await manager.query<{ id: number; version: number }[]>(
        `INSERT INTO ${kind} (${columns.map(([name]) => name).join(', ')})
         VALUES (${columns.map((_, index) => `$${index + 1}`).join(', ')}) RETURNING id, version`,
        columns.map(([, value]) => value),
      )
      await forgetSlug(manager, kind, slug)
      return {
        outcome: 'saved',
        slug,
        version: row?.version ?? 1,
        purged: [],
        change: {
          source: TERM_SOURCE[kind],
          id: row?.id ?? 0,
          before: null,
          after: { name: parts.name, slug },
        },
      }
    }),
  )
  return told(blog, made)
}

/** Changes one; an old slug leads on. Where `parent` is absent, a category stays where it is. */
export async function saveTerm(
  blog: Blog,
  kind: TermKind,
  { slug, version }: TermRef,
  parts: TermParts,
): Promise<TermResult> {
  const rules = blog.site.definition.slugRules
  const next = parts.slug ?? slug
  const saved = await guarded(kind, next, () =>
    blog.database.transaction(async (manager): Promise<TermResult & { change?: Change }> => {
      const wrong = next === slug ? wrongIn(kind, parts, undefined, rules) : wrongIn(kind, parts, next, rules)
      if (wrong) return wrong
      const found = await lockTerm(manager, kind, { slug, version })
      if (found.outcome !== 'found') return found
      const { row } = found
      let parent = row.parent_id
      if (kind === 'category' && parts.parent !== undefined) {
        const wanted = await parentOf(manager, kind, parts.parent)
        if (wanted === undefined)
          return problem(kind, '/parent', `there is no category “${parts.parent ?? ''}”`)
        if (wanted !== null && (await isWithin(manager, row.id, wanted)))
          return problem(kind, '/parent', 'a category cannot be in itself, nor in one that is in it')
        parent = wanted
      }
      const about = kind === 'author' ? ', about = $4' : ''
      const place = kind === 'category' ? ', parent_id = $4, position = $5' : ''
      const position =
        kind === 'category' && parent !== row.parent_id ? await nextPosition(manager, parent) : row.position
      await manager.query(
        `UPDATE ${kind} SET name = $1, slug = $2, version = version + 1${about}${place} WHERE id = $3`,
        [
          parts.name,
          next,
          row.id,
          ...(kind === 'author' ? [parts.about ?? row.about] : []),
          ...(kind === 'category' ? [parent, position] : []),
        ],
      )
      if (next !== slug) await rememberSlug(manager, kind, row.id, slug, next)
      return {
        outcome: 'saved',
        slug: next,
        version: version + 1,
        purged: [],
        change: {
          source: TERM_SOURCE[kind],
          id: row.id,
          before: { name: row.name, slug, about: row.about, parentId: row.parent_id, position: row.position },
          after: {
            name: parts.name,
            slug: next,
            about: parts.about ?? row.about,
            parentId: parent,
            position,
          },
        },
      }
    }),
  )
  return told(blog, saved)
}

/**
 * Puts a category somewhere else in the tree.
 * @param to `before`: the slug of the category it comes before; null for last
 */
export async function placeCategory(
  blog: Blog,
  { slug, version }: TermRef,
  to: { parent: string | null; before: string | null },
): Promise<TermResult> {
  const result = await blog.database.transaction(
    async (manager): Promise<TermResult & { changes?: Change[] }> => {
      // One move at a time: each sees the tree as the one before left it.
      await manager.query('LOCK TABLE category IN SHARE ROW EXCLUSIVE MODE')
      const found = await lockTerm(manager, 'category', { slug, version })
      if (found.outcome !== 'found') return found
      const { row } = found
      const parent = await parentOf(manager, 'category', to.parent)
      if (parent === undefined)
        return problem('category', '/parent', `there is no category “${to.parent ?? ''}”`)
      if (parent !== null && (await isWithin(manager, row.id, parent)))
        return problem('category', '/parent', 'a category cannot be in itself, nor in one that is in it')
      const beside = await manager.query<{ id: number; slug: string; position: number }[]>(
        'SELECT id, slug, position FROM category WHERE parent_id IS NOT DISTINCT FROM $1 AND id <> $2 ORDER BY position, id',
        [parent, row.id],
      )
      const at = to.before === null ? beside.length : beside.findIndex((one) => one.slug === to.before)
      if (at === -1)
        return problem(
          'category',
          '/before',
          `“${to.before ?? ''}” is not there; the order has changed meanwhile`,
        )
      const order = [...beside.slice(0, at), { id: row.id, slug, position: -1 }, ...beside.slice(at)]
      const changes: Change[] = []
      for (const [position, one] of order.entries()) {
        if (one.id !== row.id && one.position === position) continue
        const own = one.id === row.id ? ', version = version + 1' : ''
        await manager.query(`UPDATE category SET parent_id = $1, position = $2${own} WHERE id = $3`, [
          parent,
          position,
          one.id,
        ])
        changes.push({
          source: 'categories',
          id: one.id,
          before: {
            position: one.id === row.id ? row.position : one.position,
            parentId: one.id === row.id ? row.parent_id : parent,
          },
          after: { position, parentId: parent },
        })
      }
      return { outcome: 'saved', slug, version: version + 1, purged: [], changes }
    },
  )
  return told(blog, result)
}

export interface LockedTerm {
  id: number
  name: string
  version: number
  about: string
  parent_id: number | null
  position: number
}

export async function lockTerm(
  manager: EntityManager,
  kind: TermKind,
  { slug, version }: TermRef,
): Promise<
  { outcome: 'found'; row: LockedTerm } | { outcome: 'unknown' } | { outcome: 'conflict'; version: number }
> {
  const more = { category: 'parent_id, position', author: 'about', tag: 'id' }[kind]
  const [row] = await manager.query<(Partial<LockedTerm> & Pick<LockedTerm, 'id' | 'name' | 'version'>)[]>(
    `SELECT id, name, version, ${more} FROM ${kind} WHERE slug = $1 FOR UPDATE`,
    [slug],
  )
  if (!row) return { outcome: 'unknown' }
  if (row.version !== version) return { outcome: 'conflict', version: row.version }
  return { outcome: 'found', row: { about: '', parent_id: null, position: 0, ...row } }
}

export const idOf = async (
  manager: EntityManager,
  kind: TermKind,
  slug: string,
): Promise<number | undefined> =>
  (await manager.query<{ id: number }[]>(`SELECT id FROM ${kind} WHERE slug = $1 FOR UPDATE`, [slug]))[0]?.id

const parentOf = async (manager: EntityManager, kind: TermKind, slug: string | null) =>
  slug === null || kind !== 'category' ? null : await idOf(manager, kind, slug)

/** True when a category is the other one, or in it at any depth. */
export async function isWithin(manager: EntityManager, outer: number, inner: number): Promise<boolean> {
  const rows = await manager.query<{ id: number }[]>(
    `WITH RECURSIVE up AS (SELECT id, parent_id FROM category WHERE id = $1
       UNION SELECT category.id, category.parent_id FROM category JOIN up ON category.id = up.parent_id)
     SELECT id FROM up WHERE id = $2`,
    [inner, outer],
  )
  return rows.length > 0
}

async function nextPosition(manager: EntityManager, parent: number | null): Promise<number> {
  const [row] = await manager.query<{ next: number }[]>(
    'SELECT coalesce(max(position) + 1, 0)::int AS next FROM category WHERE parent_id IS NOT DISTINCT FROM $1',
    [parent],
  )
  return row?.next ?? 0
}

async function freeTermSlug(
  manager: EntityManager,
  kind: TermKind,
  name: string,
  { maximum, reserved }: SlugRules,
): Promise<string> {
  const base = slugOf(name, maximum)
  if (base === '') return ''
  const rows = await manager.query<{ slug: string }[]>(
    `SELECT slug FROM ${kind} WHERE starts_with(slug, $1)`,
    [base.slice(0, Math.max(1, maximum - 12))],
  )
  const known = new Set(rows.map((one) => one.slug))
  return freeSlug(base, (one) => known.has(one) || reserved.has(one), maximum)
}

function wrongIn(
  kind: TermKind,
  parts: TermParts,
  slug: string | undefined,
  rules: SlugRules,
): TermResult | undefined {
  if (parts.name.trim() === '') return problem(kind, '/name', 'the name is empty')
  if (slug === undefined) return undefined
  if (slug === '' && parts.slug === undefined)
    return problem(kind, '/slug', 'no slug can be made from this name', 'write one')
  const fault = slugFault(slug, rules)
  return fault === undefined ? undefined : problem(kind, '/slug', fault)
}

/** Of two that take the same slug at once, the database lets one through. */
async function guarded<T>(kind: TermKind, slug: string, work: () => Promise<T>): Promise<T | TermResult> {
  try {
    return await work()
  } catch (error) {
    if (isUniqueViolation(error)) return taken(kind, slug)
    throw error
  }
}

/** Once it is committed, the copies that readers get are told. */
function told(
  blog: Blog,
  { change, changes = [], ...result }: TermResult & { change?: Change; changes?: Change[] },
): TermResult {
  const purged = [...(change ? [change] : []), ...changes].flatMap((one) => blog.changed(one).dropped)
  return result.outcome === 'saved' ? { ...result, purged } : result
}
