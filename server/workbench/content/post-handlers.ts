/** What the operations on posts do. */
import type { Problem } from '../../../core/shapes/problem.ts'
import { appearancesOf } from '../../probes/appearances.ts'
import type { Blog } from '../../reader/blog.ts'
import { rehearse } from '../../probes/rehearse.ts'
import { changePosts, createPost, deletePost, writeParts } from '../../author/posts/post-actions.ts'
import { importPosts } from '../../author/posts/post-files.ts'
import { listPosts } from '../../author/posts/post-list.ts'
import type { PostState } from '../../../core/shapes/content-kinds.ts'
import {
  findPost,
  matterOf,
  savePostParts,
  type PostParts,
  type SaveResult,
} from '../../author/posts/posts.ts'
import { isUniqueViolation } from '../../store/slugs.ts'
import { ImageEntity } from '../../store/entities/content.ts'
import type { Post, postOperations } from '../../../contract/posts.ts'
import type { HandlersOf } from '../http/handlers-of.ts'
import { addressFor } from '../../reader/addresses/slug-address.ts'
import { previewAt } from '../../probes/preview.ts'
import { Refusal } from '../http/refusal.ts'

export function postHandlers(blog: Blog): HandlersOf<typeof postOperations> {
  return {
    'GET /api/posts': async ({ query: { page = '1', size = '25', ...filter } }) => {
      const at = { page: Number(page), size: Number(size) }
      const { posts, ...counts } = await listPosts(blog.database, { ...filter, ...at })
      return {
        posts: posts.map((one) => ({
          ...one,
          publishedAt: one.publishedAt?.toISOString() ?? null,
          updatedAt: one.updatedAt.toISOString(),
        })),
        ...counts,
        ...at,
      }
    },
    'GET /api/post': ({ query }) => readPost(blog, query.slug),
    'POST /api/posts': async ({ body }) => {
      const made = await createPost(blog, body)
      if (made.outcome === 'problems') throw notSaved(made.problems)
      return { slug: made.slug, version: made.version, purged: [] }
    },
    'PUT /api/post': async ({ query: { slug }, body: { version, ...parts } }) => {
      const result = await savePostParts(blog, slug, parts, version)
      if (result.outcome === 'saved')
        return { slug: result.slug, version: result.version, purged: result.purged }
      throw await refusalOf(blog, slug, result)
    },
    'POST /api/posts/change': async ({ body: { posts, change } }) => {
      const results = await changePosts(blog, posts, change)
      return {
        results: results.map(({ slug, result }) =>
          result.outcome === 'saved'
            ? { slug: result.slug, done: true, version: result.version, deleted: null, message: null }
            : { ...failed, slug, message: whyNot(result) },
        ),
      }
    },
    'POST /api/posts/delete': async ({ body: { posts } }) => {
      const results = []
      for (const one of posts) {
        const result = await deletePost(blog, one)
        results.push(
          result.outcome === 'deleted'
            ? { slug: one.slug, done: true, version: null, deleted: result.deleted, message: null }
            : { ...failed, slug: one.slug, message: whyNot(result) },
        )
      }
      return { results }
    },
    'POST /api/posts/import': async ({ body: { files } }) => {
      const results = await importPosts(blog, files)
      return {
        results: results.map(({ problems, ...one }) => ({
          ...one,
          problems: problems.map((problem) => ({ ...problem })),
        })),
      }
    },
    'POST /api/post/preview': ({ body: { slug, ...parts } }) => preview(blog, slug, parts),
    'GET /api/post/appearances': async ({ query: { slug } }) => {
      const post = await readPost(blog, slug)
      const isPublic = post.state === 'published'
      const found = isPublic
        ? await appearancesOf(blog, slug)
        : await rehearse(
            blog,
            (manager) => manager.query('UPDATE post SET published_at = now() WHERE slug = $1', [slug]),
            (changed) => appearancesOf(changed, slug),
          )
      return { isPublic, found: found?.found ?? [], beside: found?.beside ?? [] }
    },
    'GET /api/names': () => names(blog),
  }
}

const failed = { done: false, version: null, deleted: null }

async function readPost(blog: Blog, slug: string): Promise<Post> {
  const post = await findPost(blog.database, slug)
  if (!post) throw new Refusal({ status: 404, title: `There is no post “${slug}”` })
  const [row] = await blog.database.query<{ state: PostState; former: string[] }[]>(
    `SELECT CASE WHEN published_at IS NULL THEN 'draft' WHEN published_at > now() THEN 'scheduled' ELSE 'published' END AS state,
       ARRAY(SELECT slug FROM former_slug WHERE post_id = post.id ORDER BY created_at DESC) AS former
     FROM post WHERE id = $1`,
    [post.id],
  )
  return {
    slug: post.slug,
    version: post.version,
    state: row?.state ?? 'draft',
    matter: matterOf(post),
    body: post.body,
    excerpt: post.excerpt,
    wordCount: post.wordCount,
    address: addressFor(blog, 'post', post.slug)?.path ?? null,
    former: row?.former ?? [],
    createdAt: post.createdAt.toISOString(),
    updatedAt: post.updatedAt.toISOString(),
  }
}

/** The page as its author would see it after the save, which never happens. */
async function preview(blog: Blog, slug: string | null, parts: PostParts) {
  let facts = { path: null as string | null, wordCount: 0, excerpt: '' }
  try {
    const shown = await previewAt(
      blog,
      async (manager) => {
        const written = await writeParts(manager, blog, slug, parts)
        if (!written.ok) throw notSaved(written.problems)
        const { wordCount, excerpt } = written.post
        facts = { path: addressFor(blog, 'post', written.post.slug)?.path ?? null, wordCount, excerpt }
      },
      () => facts.path,
    )
    return { ...facts, ...shown }
  } catch (error) {
    if (isUniqueViolation(error))
      throw notSaved([{ file: 'content/posts', path: '/slug', message: 'another post has this slug' }])
    throw error
  }
}

const notSaved = (problems: readonly Problem[]) =>
  new Refusal({
    status: 422,
    title: 'Not saved: the last good version keeps running',
    problems: problems.map((one) => ({ ...one })),
  })

async function refusalOf(
  blog: Blog,
  slug: string,
  result: Exclude<SaveResult, { outcome: 'saved' }>,
): Promise<Refusal> {
  if (result.outcome === 'problems') return notSaved(result.problems)
  if (result.outcome === 'unknown') return new Refusal({ status: 404, title: `There is no post “${slug}”` })
  const stored = await findPost(blog.database, slug)
  return new Refusal({
    status: 409,
    title: 'Somebody else saved this meanwhile',
    detail: 'Compare both versions, then save again.',
    version: result.version,
    text: stored?.body ?? '',
  })
}

function whyNot(result: { outcome: string; problems?: readonly Problem[] }): string {
  if (result.outcome === 'problems') return result.problems?.[0]?.message ?? 'it is not valid'
  return result.outcome === 'conflict' ? 'somebody else saved it meanwhile' : 'it is not there any more'
}

async function names(blog: Blog) {
  const { database } = blog
  const counted = (table: 'category' | 'author') =>
    database.query<{ slug: string; name: string; posts: number; depth: number }[]>(
      `SELECT slug, name, (SELECT count(*)::int FROM post WHERE post.${table}_id = ${table}.id) AS posts, 0 AS depth FROM ${table} ORDER BY name, id`,
    )
  const [categories, authors, tags, images] = await Promise.all([
    database.query<{ slug: string; name: string; posts: number; depth: number }[]>(
      `WITH RECURSIVE tree AS (
         SELECT id, slug, name, 0 AS depth, ARRAY[position, id] AS place FROM category WHERE parent_id IS NULL
         UNION ALL SELECT child.id, child.slug, child.name, tree.depth + 1, tree.place || child.position || child.id
         FROM category child JOIN tree ON child.parent_id = tree.id)
       SELECT slug, name, depth, (SELECT count(*)::int FROM post WHERE post.category_id = tree.id) AS posts FROM tree ORDER BY place`,
    ),
    counted('author'),
    database.query<{ slug: string; name: string; posts: number; depth: number }[]>(
      'SELECT slug, name, (SELECT count(*)::int FROM post_tag WHERE tag_id = tag.id) AS posts, 0 AS depth FROM tag ORDER BY name, id',
    ),
    database
      .getRepository(ImageEntity)
      .createQueryBuilder('image')
      .select('image.name', 'name')
      .addSelect('image.width', 'width')
      .addSelect('image.height', 'height')
      .addSelect('(SELECT count(*)::int FROM post WHERE post.image_id = image.id)', 'posts')
      .orderBy('image.name')
      .getRawMany<{ name: string; width: number; height: number; posts: number }>(),
  ])
  return { categories, authors, tags, images, timeZone: blog.site.definition.timeZone }
}
