/** Categories, tags and authors: what posts are sorted by. Listed with counts, made, changed, merged, deleted. */
import type { DataSource, EntityManager } from 'typeorm'
import type { Change } from '../../core/caching/purge.ts'
import type { Problem } from '../../core/definition/problem.ts'
import { freeSlug, slugFault, slugOf, type SlugRules } from '../../core/slugs/slug.ts'
import type { Blog } from '../blog/blog.ts'
import { putInBin, type Going, type Link } from './bin.ts'
import { forgetSlug, isUniqueViolation, rememberSlug } from './slugs.ts'

export const TERM_KINDS = ['category', 'tag', 'author'] as const
export type TermKind = (typeof TERM_KINDS)[number]

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

const SOURCE = { category: 'categories', tag: 'tags', author: 'authors' } as const

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

const problem = (kind: TermKind, path: string, message: string, hint?: string): Refused => ({
  outcome: 'problems',
  problems: [
    { file: `content/${SOURCE[kind]}.yaml`, path, message, ...(hint === undefined ? {} : { hint }) },
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
        change: { source: SOURCE[kind], id: row?.id ?? 0, before: null, after: { name: parts.name, slug } },
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
          source: SOURCE[kind],
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

export type TermDeletion =
  | { outcome: 'deleted'; deleted: number; name: string; posts: number }
  | { outcome: 'in-use'; posts: number }
  | Exclude<TermResult, { outcome: 'saved' }>

/**
 * Deletes one, or merges it into another: its posts go over, and its address leads there.
 * @param into slug of the other; null: its posts are left without
 * @param evenIfUsed false: one that posts have is not deleted, and the answer says how many have it
 */
export async function removeTerm(
  blog: Blog,
  kind: TermKind,
  { slug, version }: TermRef,
  { into, evenIfUsed }: { into: string | null; evenIfUsed: boolean },
): Promise<TermDeletion> {
  const result = await blog.database.transaction(
    async (manager): Promise<TermDeletion & { changes?: Change[] }> => {
      if (kind === 'category') await manager.query('LOCK TABLE category IN SHARE ROW EXCLUSIVE MODE')
      const found = await lockTerm(manager, kind, { slug, version })
      if (found.outcome !== 'found') return found
      const { row } = found
      const target = into === null ? null : await idOf(manager, kind, into)
      if (target === undefined) return problem(kind, '/into', `there is no ${kind} “${into ?? ''}”`)
      if (target === row.id) return problem(kind, '/into', `it cannot be merged into itself`)
      if (kind === 'category' && target !== null && (await isWithin(manager, row.id, target)))
        return problem(kind, '/into', `“${into ?? ''}” is in it; move that out first`)
      const posts = await manager.query<{ id: number }[]>(
        kind === 'tag'
          ? 'SELECT post.id FROM post JOIN post_tag link ON link.post_id = post.id WHERE link.tag_id = $1 FOR UPDATE OF post'
          : `SELECT id FROM post WHERE ${kind}_id = $1 FOR UPDATE`,
        [row.id],
      )
      const ids = posts.map((one) => one.id)
      if (ids.length > 0 && target === null && !evenIfUsed) return { outcome: 'in-use', posts: ids.length }
      const links = await leadElsewhere(manager, kind, row, target, ids)
      const former = await manager.query<{ slug: string }[]>(
        `SELECT slug FROM former_slug WHERE ${kind}_id = $1`,
        [row.id],
      )
      const values = [row.id]
      const going: Going[] = [
        { table: kind, column: 'id', values },
        ...(kind === 'tag' ? [{ table: 'post_tag' as const, column: 'tag_id', values }] : []),
        { table: 'former_slug', column: `${kind}_id`, values },
      ]
      const deleted = await putInBin(manager, { kind, name: slug, title: row.name, going, links })
      if (target !== null)
        for (const one of [slug, ...former.map((gone) => gone.slug)])
          await rememberSlug(manager, kind, target, one, into ?? '')
      const field = kind === 'tag' ? 'tagIds' : `${kind}Id`
      const changes: Change[] = [
        { source: SOURCE[kind], id: row.id, before: { name: row.name, slug }, after: null },
        ...ids.map((id) => ({
          source: 'posts' as const,
          id,
          before: { [field]: row.id },
          after: { [field]: target },
        })),
      ]
      return { outcome: 'deleted', deleted, name: row.name, posts: ids.length, changes }
    },
  )
  const { changes = [], ...answer } = result as TermDeletion & { changes?: Change[] }
  for (const change of changes) blog.changed(change)
  return answer
}

/** Posts, and categories that are in it, are led elsewhere. @returns what it takes to lead them back */
async function leadElsewhere(
  manager: EntityManager,
  kind: TermKind,
  row: LockedTerm,
  target: number | null,
  posts: readonly number[],
): Promise<Link[]> {
  if (kind === 'tag') {
    await manager.query('UPDATE post SET version = version + 1 WHERE id = ANY($1)', [posts])
    if (target === null) return []
    const added = await manager.query<{ post_id: number }[]>(
      `INSERT INTO post_tag (post_id, tag_id) SELECT id, $2 FROM unnest($1::int[]) id ON CONFLICT DO NOTHING RETURNING post_id`,
      [posts, target],
    )
    return [{ table: 'post_tag', tag: target, posts: added.map((one) => one.post_id) }]
  }
  const column = `${kind}_id`
  await manager.query(`UPDATE post SET ${column} = $1, version = version + 1 WHERE id = ANY($2)`, [
    target,
    posts,
  ])
  const links: Link[] = [{ table: 'post', column, was: row.id, now: target, ids: [...posts] }]
  if (kind !== 'category') return links
  // What is in it moves up to where it was, or into what it is merged into.
  const now = target ?? row.parent_id
  const children = await manager.query<{ id: number }[]>('SELECT id FROM category WHERE parent_id = $1', [
    row.id,
  ])
  const ids = children.map((one) => one.id)
  await manager.query('UPDATE category SET parent_id = $1 WHERE id = ANY($2)', [now, ids])
  return [...links, { table: 'category', column: 'parent_id', was: row.id, now, ids }]
}

interface LockedTerm {
  id: number
  name: string
  version: number
  about: string
  parent_id: number | null
  position: number
}

async function lockTerm(
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

const idOf = async (manager: EntityManager, kind: TermKind, slug: string): Promise<number | undefined> =>
  (await manager.query<{ id: number }[]>(`SELECT id FROM ${kind} WHERE slug = $1 FOR UPDATE`, [slug]))[0]?.id

const parentOf = async (manager: EntityManager, kind: TermKind, slug: string | null) =>
  slug === null || kind !== 'category' ? null : await idOf(manager, kind, slug)

/** True when a category is the other one, or in it at any depth. */
async function isWithin(manager: EntityManager, outer: number, inner: number): Promise<boolean> {
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
