/** The use cases of posts: create, save, change several, and delete. */
import type { Outcome } from '../../../core/shapes/outcome.ts'
import { conflict, refused, success, unknown } from '../../../core/shapes/outcome.ts'
import type { PostMatter } from '../../../core/shapes/content-schemas.ts'
import { freeSlug } from '../../../core/slugs/slug.ts'
import { PostEntity } from '../../store/entities/content.ts'
import { postState } from '../../store/content/posts.ts'
import { keepAndDelete } from '../deleted/deleted.ts'
import { ROW_PROBLEMS } from '../problems.ts'
import { forgetSlug, rememberSlug } from '../slugs/history.ts'
import type { Writing } from '../writing.ts'
import { matterOf, postPath, readPost, readPostFile, type PostFile, type PostParts } from './post-file.ts'
import { byDatabaseClock, lockPost, postColumns, writePost } from './stored-post.ts'

export interface SavedPost {
  slug: string
  version: number
}

export interface PostRef {
  slug: string
  /** The version that the author has read. */
  version: number
}

const UNIQUE_SLUG = 'post_slug_key'

const slugTaken = ({ file, slug, placeOf }: PostFile) =>
  refused({ file, path: '/slug', ...placeOf(['slug']), ...ROW_PROBLEMS['slug-taken']('post', slug) })

const postUnknown = (slug: string) =>
  unknown({ file: postPath(slug), ...ROW_PROBLEMS['row-unknown']('post', slug) })

const postConflict = ({ slug, version, body }: PostEntity) =>
  conflict(
    { file: postPath(slug), ...ROW_PROBLEMS['version-conflict']('this post') },
    { version, text: body },
  )

/** How often a slug that was derived from the title is derived again because another post has just taken it. */
const ATTEMPTS = 5

/** Creates a post. A given slug must be free. Otherwise a free one is derived from the title. */
export async function createPost(writing: Writing, parts: PostParts): Promise<Outcome<SavedPost>> {
  const read = readPost('content/posts', parts, writing.now, writing.definition)
  if (!read.ok) return read
  const isGiven = parts.matter.slug !== undefined
  for (let attempt = 1; ; attempt++) {
    const slug = isGiven ? read.value.slug : await freeSlugLike(writing, read.value.slug)
    const post = { ...read.value, file: postPath(slug), slug }
    let isTaken = false
    const created = await writing.attempt(
      async (part) => await insertPost(part, post),
      (constraint) => {
        isTaken = constraint === UNIQUE_SLUG
        return isTaken ? slugTaken(post) : undefined
      },
    )
    if (created.ok || !isTaken || isGiven || attempt === ATTEMPTS) return created
  }
}

async function insertPost(writing: Writing, post: PostFile): Promise<Outcome<SavedPost>> {
  const { manager } = writing
  const columns = await postColumns(await byDatabaseClock(manager, post), await writing.names())
  if (!columns.ok) return columns
  const saved = await writePost(manager, columns.value)
  await forgetSlug(manager, 'post', saved.slug)
  return success({ slug: saved.slug, version: saved.version })
}

async function freeSlugLike({ manager, definition }: Writing, slug: string): Promise<string> {
  const { maximum, reserved } = definition.slugRules
  const rows = await manager
    .createQueryBuilder(PostEntity, 'post')
    .select('post.slug', 'slug')
    .where('starts_with(post.slug, :start)', { start: slug.slice(0, Math.max(1, maximum - 12)) })
    .getRawMany<{ slug: string }>()
  const taken = new Set(rows.map((one) => one.slug))
  return freeSlug(slug, (one) => taken.has(one) || reserved.has(one), maximum)
}

/** Saves a post from its file, which may give it another slug. */
export const savePostFile = (writing: Writing, ref: PostRef, text: string): Promise<Outcome<SavedPost>> =>
  saveRead(writing, ref, readPostFile(postPath(ref.slug), text, writing.now, writing.definition))

/** Saves a post from its parts. Without a slug in its front matter, it keeps its own. */
export const savePost = (writing: Writing, ref: PostRef, parts: PostParts): Promise<Outcome<SavedPost>> =>
  saveRead(writing, ref, readPost(postPath(ref.slug), parts, writing.now, writing.definition))

const saveRead = async (
  writing: Writing,
  ref: PostRef,
  read: Outcome<PostFile>,
): Promise<Outcome<SavedPost>> =>
  read.ok
    ? await writing.attempt(
        (part) => updatePost(part, ref, read.value),
        (constraint) => (constraint === UNIQUE_SLUG ? slugTaken(read.value) : undefined),
      )
    : read

async function updatePost(writing: Writing, ref: PostRef, post: PostFile): Promise<Outcome<SavedPost>> {
  const { manager } = writing
  const existing = await lockPost(manager, ref.slug)
  if (!existing) return postUnknown(ref.slug)
  if (existing.version !== ref.version) return postConflict(existing)
  const columns = await postColumns(await byDatabaseClock(manager, post), await writing.names())
  if (!columns.ok) return columns
  const wasPublic = (await postState(manager, existing.id)) === 'published'
  const saved = await writePost(manager, columns.value, existing)
  if (saved.slug !== ref.slug) {
    // A slug that readers could use redirects to the post. A draft's slug was never public.
    if (wasPublic) await rememberSlug(manager, 'post', saved.id, ref.slug, saved.slug)
    else await forgetSlug(manager, 'post', saved.slug)
  }
  return success({ slug: saved.slug, version: saved.version })
}

/** A change of several posts at once. Absent keys stay as they are. */
export interface PostsChange {
  category?: string | null
  author?: string | null
  addTags?: readonly string[]
  removeTags?: readonly string[]
  /** A time as in front matter, `now` (a post that was published before keeps its date), or null for a draft. */
  published?: string | null
  comments?: 'open' | 'closed'
}

/** Changes one of several posts. */
export async function changePost(
  writing: Writing,
  ref: PostRef,
  change: PostsChange,
): Promise<Outcome<SavedPost>> {
  const post = await lockPost(writing.manager, ref.slug)
  if (!post) return postUnknown(ref.slug)
  // A post that was published before keeps its date.
  const published =
    change.published === 'now' && post.formerPublishedAt
      ? post.formerPublishedAt.toISOString()
      : change.published
  const wanted = published === undefined ? change : { ...change, published }
  return await savePost(writing, ref, { matter: changedMatter(matterOf(post), wanted), body: post.body })
}

function changedMatter(matter: PostMatter, change: PostsChange): PostMatter {
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

export interface DeletedPost {
  /** The id by which it can be restored. */
  deleted: number
  title: string
}

/** Deletes a post with its comments. It can be restored for a month. */
export async function deletePost(
  writing: Writing,
  { slug, version }: PostRef,
): Promise<Outcome<DeletedPost>> {
  const { manager } = writing
  const post = await lockPost(manager, slug)
  if (!post) return postUnknown(slug)
  if (post.version !== version) return postConflict(post)
  const values = [post.id]
  const deleted = await keepAndDelete(manager, {
    kind: 'post',
    name: slug,
    title: post.title,
    rows: [
      { table: 'post', column: 'id', values },
      { table: 'post_tag', column: 'post_id', values },
      { table: 'comment', column: 'post_id', values },
      { table: 'former_slug', column: 'post_id', values },
    ],
  })
  return success({ deleted, title: post.title })
}

/** Writes a post for a preview, without a version and without history. */
export async function writePreview(
  writing: Writing,
  slug: string | null,
  parts: PostParts,
): Promise<Outcome<PostEntity>> {
  const { manager } = writing
  const read = readPost(postPath(slug ?? 'new-post'), parts, writing.now, writing.definition)
  if (!read.ok) return read
  const existing = slug === null ? null : await lockPost(manager, slug)
  const columns = await postColumns(await byDatabaseClock(manager, read.value), await writing.names())
  if (!columns.ok) return columns
  return await writing.attempt(
    async (part) => success(await writePost(part.manager, columns.value, existing ?? undefined)),
    (constraint) => (constraint === UNIQUE_SLUG ? slugTaken(read.value) : undefined),
  )
}
