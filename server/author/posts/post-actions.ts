/** What an author does with posts besides saving one: begin, change several, delete, put back. */
import type { EntityManager } from 'typeorm'
import type { Problem } from '../../../core/shapes/problem.ts'
import type { PostMatter } from '../../../core/shapes/schemas.ts'
import { freeSlug } from '../../../core/slugs/slug.ts'
import type { Blog } from '../../reader/blog.ts'
import { PostEntity } from '../../store/entities/content.ts'
import { putInBin } from '../deleted/bin.ts'
import {
  byDatabaseClock,
  findPost,
  inTransaction,
  loadNames,
  matterOf,
  postFields,
  postPath,
  readPost,
  savePostParts,
  stateOf,
  tellChange,
  writePost,
  type Batch,
  type PostParts,
  type SaveResult,
} from './posts.ts'
import { forgetSlug } from '../slugs/slugs.ts'
import { isUniqueViolation } from '../../store/slugs.ts'

/** Times a slug made from a title is made anew because somebody else was faster. */
const ATTEMPTS = 5

export type CreateResult =
  { outcome: 'created'; slug: string; version: number } | { outcome: 'problems'; problems: Problem[] }

/** Makes a post. Without a slug it gets a free one, made from its title; a slug that is given must be free. */
export async function createPost(blog: Blog, parts: PostParts, batch?: Batch): Promise<CreateResult> {
  const { definition } = blog.site
  const read = readPost('', parts, blog.clock(), definition)
  const file = read.ok ? postPath(read.post.slug) : 'content/posts'
  if (!read.ok) return { outcome: 'problems', problems: read.problems.map((one) => ({ ...one, file })) }
  const isOwn = parts.matter.slug !== undefined
  for (let attempt = 1; ; attempt++) {
    try {
      const made = await inTransaction(blog, batch, async (manager, names) => {
        const slug = isOwn
          ? read.post.slug
          : await freeSlugLike(
              manager,
              read.post.slug,
              definition.slugRules.maximum,
              definition.slugRules.reserved,
            )
        const post = await byDatabaseClock(manager, { ...read.post, file, slug })
        const fields = postFields(post, await names())
        if (!fields.ok) return fields
        const made = await writePost(manager, fields.fields, undefined)
        await forgetSlug(manager, 'post', slug)
        return { ok: true as const, post: made }
      })
      if (!made.ok) return { outcome: 'problems', problems: made.problems }
      tellChange(blog, batch, {
        source: 'posts',
        id: made.post.id,
        before: null,
        after: stateOf(made.post),
      })
      return { outcome: 'created', slug: made.post.slug, version: made.post.version }
    } catch (error) {
      if (!isUniqueViolation(error)) throw error
      if (isOwn || attempt === ATTEMPTS)
        return {
          outcome: 'problems',
          problems: [{ file, path: '/slug', message: `another post has the slug “${read.post.slug}”` }],
        }
    }
  }
}

async function freeSlugLike(
  manager: EntityManager,
  slug: string,
  maximum: number,
  reserved: ReadonlySet<string>,
): Promise<string> {
  const rows = await manager.query<{ slug: string }[]>('SELECT slug FROM post WHERE starts_with(slug, $1)', [
    slug.slice(0, Math.max(1, maximum - 12)),
  ])
  const taken = new Set(rows.map((one) => one.slug))
  return freeSlug(slug, (one) => taken.has(one) || reserved.has(one), maximum)
}

/** What may be changed on several posts at once; what is absent stays. */
export interface PostsChange {
  category?: string | null
  author?: string | null
  addTags?: readonly string[]
  removeTags?: readonly string[]
  /** A time as in front matter, `now`, or null for a draft. */
  published?: string | null
  comments?: 'open' | 'closed'
}

export interface PostRef {
  slug: string
  version: number
}

/** Changes each post by itself: one that was saved by somebody else meanwhile does not hold up the others. */
export async function changePosts(
  blog: Blog,
  posts: readonly PostRef[],
  change: PostsChange,
): Promise<{ slug: string; result: SaveResult }[]> {
  const results: { slug: string; result: SaveResult }[] = []
  for (const { slug, version } of posts) {
    const post = await findPost(blog.database, slug)
    const result: SaveResult = post
      ? await savePostParts(blog, slug, { matter: changed(matterOf(post), change), body: post.body }, version)
      : { outcome: 'unknown' }
    results.push({ slug, result })
  }
  return results
}

function changed(matter: PostMatter, change: PostsChange): PostMatter {
  const tags = [...new Set([...(matter.tags ?? []), ...(change.addTags ?? [])])].filter(
    (one) => !change.removeTags?.includes(one),
  )
  const next: Record<string, unknown> = { ...matter, tags }
  const set = (key: string, value: string | null | undefined) => {
    if (value === null) Reflect.deleteProperty(next, key)
    else if (value !== undefined) next[key] = value
  }
  set('category', change.category)
  set('author', change.author)
  set('published', change.published)
  set('comments', change.comments)
  return next as PostMatter
}

export type DeleteResult =
  | { outcome: 'deleted'; deleted: number; title: string }
  | { outcome: 'conflict'; version: number }
  | { outcome: 'unknown' }

/**
 * Deletes a post with its comments. All of it is kept for a month and can be put back.
 * @returns `deleted`: by which it is put back
 */
export async function deletePost(blog: Blog, { slug, version }: PostRef): Promise<DeleteResult> {
  const result = await blog.database.transaction(async (manager) => {
    const [locked] = await manager.query<{ id: number; version: number }[]>(
      'SELECT id, version FROM post WHERE slug = $1 FOR UPDATE',
      [slug],
    )
    if (!locked) return { outcome: 'unknown' as const }
    if (locked.version !== version) return { outcome: 'conflict' as const, version: locked.version }
    const post = await findPost(manager, slug)
    if (!post) return { outcome: 'unknown' as const }
    const values = [locked.id]
    const deleted = await putInBin(manager, {
      kind: 'post',
      name: slug,
      title: post.title,
      going: [
        { table: 'post', column: 'id', values },
        { table: 'post_tag', column: 'post_id', values },
        { table: 'comment', column: 'post_id', values },
        { table: 'former_slug', column: 'post_id', values },
      ],
    })
    return { outcome: 'deleted' as const, deleted, title: post.title, before: stateOf(post), id: locked.id }
  })
  if (result.outcome !== 'deleted') return result
  const { before, id, ...answer } = result
  blog.changed({ source: 'posts', id, before, after: null })
  blog.changed({ source: 'comments', id: 0, before: {}, after: null, counted: [{ source: 'posts', id }] })
  return answer
}

/** The row for parts, in a transaction of the caller's: a new one, or a new version of the one with the slug. */
export async function writeParts(
  manager: EntityManager,
  blog: Blog,
  slug: string | null,
  parts: PostParts,
): Promise<{ ok: true; post: PostEntity } | { ok: false; problems: Problem[] }> {
  const read = readPost(postPath(slug ?? 'a-new-post'), parts, blog.clock(), blog.site.definition)
  if (!read.ok) return read
  const existing = slug === null ? null : await findPost(manager, slug)
  const fields = postFields(
    await byDatabaseClock(manager, read.post),
    await loadNames(manager, blog.site.definition.htmlRules),
  )
  if (!fields.ok) return fields
  return { ok: true, post: await writePost(manager, fields.fields, existing ?? undefined) }
}
