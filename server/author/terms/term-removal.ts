/** Taking a category, tag or author out: deleted, its posts left without; or merged into another, which gets them. */
import type { EntityManager } from 'typeorm'
import type { Change } from '../../../core/caching/purge.ts'
import type { Blog } from '../../reader/blog.ts'
import { putInBin, type Going, type Link } from '../deleted/bin.ts'
import { rememberSlug } from '../slugs/slugs.ts'
import {
  idOf,
  isWithin,
  lockTerm,
  problem,
  TERM_SOURCE,
  type LockedTerm,
  type TermRef,
  type TermResult,
} from './terms.ts'
import type { TermKind } from '../../../core/shapes/content-kinds.ts'

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
        { source: TERM_SOURCE[kind], id: row.id, before: { name: row.name, slug }, after: null },
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
