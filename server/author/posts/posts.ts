/** A post as a Markdown file with front matter: read, checked, written, and what the write purges. */
import type { DataSource, EntityManager } from 'typeorm'
import { readMatter, writeMatter } from '../../../core/content/front-matter.ts'
import type { PlaceOf } from '../../../core/shapes/yaml.ts'
import type { HtmlRules, ImageSizes } from '../../../core/content/html/allow-list.ts'
import { pipelineOf, renderMarkdown } from '../../../core/content/html/markdown.ts'
import { shownText } from '../../../core/content/text.ts'
import { readTime } from '../../../core/content/times.ts'
import type { Change, RowState } from '../../../core/caching/purge.ts'
import type { Problem } from '../../../core/shapes/problem.ts'
import { PostMatter } from '../../../core/shapes/schemas.ts'
import type { Definition } from '../../../core/blog/definition.ts'
import { slugFault, slugOf } from '../../../core/slugs/slug.ts'
import type { Blog } from '../../reader/blog.ts'
import { loadImageSizes } from '../texts/image-sizes.ts'
import { forgetSlug, rememberSlug } from '../slugs/slugs.ts'
import { isUniqueViolation } from '../../store/slugs.ts'
import {
  AuthorEntity,
  CategoryEntity,
  ImageEntity,
  PostEntity,
  TagEntity,
} from '../../store/entities/content.ts'

/** Longest text of a post, in characters. */
export const POST_LIMIT = 500_000
export interface PostFile {
  file: string
  slug: string
  matter: PostMatter
  body: string
  published: Date | null
}

export const postPath = (slug: string) => `content/posts/${slug}.md`

/** Reads a post's file; the slug is the front matter's, else the file's name. */
export function readPostFile(
  file: string,
  text: string,
  now: Date,
  { timeZone, slugRules }: Pick<Definition, 'timeZone' | 'slugRules'>,
): PostReading {
  if (text.length > POST_LIMIT)
    return { ok: false, problems: [{ file, message: `the post is longer than ${POST_LIMIT} characters` }] }
  if (text.includes('\0'))
    return { ok: false, problems: [{ file, message: 'the post contains a null character' }] }
  const result = readMatter(file, text, PostMatter)
  if (!result.ok) return result
  return readPost(file, result, now, { timeZone, slugRules })
}

/** A post's front matter and text, however they came. */
export interface PostParts {
  matter: PostMatter
  body: string
  /** Where parts of the front matter stand, when it was read from a text. */
  placeOf?: PlaceOf
}

type PostReading = { ok: true; post: PostFile; placeOf: PlaceOf } | { ok: false; problems: Problem[] }

const nowhere: PlaceOf = () => undefined

/** @param file names the post in problems; where the front matter has no slug, the file's name is one */
export function readPost(
  file: string,
  { matter, body, placeOf = nowhere }: PostParts,
  now: Date,
  { timeZone, slugRules }: Pick<Definition, 'timeZone' | 'slugRules'>,
): PostReading {
  if (body.length > POST_LIMIT)
    return {
      ok: false,
      problems: [{ file, path: '/body', message: `the text is longer than ${POST_LIMIT} characters` }],
    }
  if (body.includes('\0'))
    return { ok: false, problems: [{ file, path: '/body', message: 'the text contains a null character' }] }
  const named = /([^/]+)\.md$/.exec(file)?.[1] ?? ''
  const slug =
    matter.slug ?? (/^[a-z0-9]+(-[a-z0-9]+)*$/.test(named) ? named : slugOf(matter.title, slugRules.maximum))
  if (slug === '')
    return {
      ok: false,
      problems: [
        {
          file,
          ...placeOf(['title']),
          message: 'no slug can be made from this title',
          hint: 'write one: “slug: …”',
        },
      ],
    }
  const fault = slugFault(slug, slugRules)
  if (fault !== undefined)
    return { ok: false, problems: [{ file, path: '/slug', ...placeOf(['slug']), message: fault }] }
  const published = matter.published === undefined ? null : readTime(matter.published, now, timeZone)
  if (published === undefined) {
    return {
      ok: false,
      problems: [
        {
          file,
          path: '/published',
          ...placeOf(['published']),
          message: `“${matter.published ?? ''}” is no time`,
          hint: 'for example 2026-11-20T09:30 or -3 days 09:30',
        },
      ],
    }
  }
  return { ok: true, post: { file, slug, matter, body, published }, placeOf }
}

/** Names that posts refer to, by their slugs. */
export interface ContentNames {
  categories: Map<string, number>
  authors: Map<string, number>
  tags: Map<string, number>
  images: Map<string, number>
  sizeOf: ImageSizes
  rules: HtmlRules
}

export async function loadNames(manager: EntityManager, rules: HtmlRules): Promise<ContentNames> {
  const bySlug = async (entity: typeof CategoryEntity | typeof AuthorEntity | typeof TagEntity) =>
    new Map(
      (await manager.find(entity, { select: { id: true, slug: true } })).map((one) => [one.slug, one.id]),
    )
  const images = await manager.find(ImageEntity, { select: { id: true, name: true } })
  return {
    categories: await bySlug(CategoryEntity),
    authors: await bySlug(AuthorEntity),
    tags: await bySlug(TagEntity),
    images: new Map(images.map((one) => [one.name, one.id])),
    sizeOf: await loadImageSizes(manager),
    rules,
  }
}

export type PostFields = Omit<
  PostEntity,
  'id' | 'category' | 'author' | 'image' | 'createdAt' | 'updatedAt' | 'version'
> & { tagIds: number[] }

/** The row for a file: names resolved, Markdown rendered once, opening and words taken from the result. */
export function postFields(
  { file, slug, matter, body, published }: PostFile,
  names: ContentNames,
): { ok: true; fields: Omit<PostFields, 'tags'> } | { ok: false; problems: Problem[] } {
  const problems: Problem[] = []
  const resolve = (
    kind: Exclude<keyof ContentNames, 'sizeOf' | 'rules'>,
    key: string,
    name: string | undefined,
  ): number | null => {
    if (name === undefined) return null
    const id = names[kind].get(name)
    if (id === undefined)
      problems.push({
        file,
        path: `/${key}`,
        message: `there is no ${key.replace(/s$/, '')} “${name}”`,
        hint: `known: ${[...names[kind].keys()].slice(0, 12).join(', ')}`,
      })
    return id ?? null
  }
  const html = renderMarkdown(body, names).html
  const fields = {
    ...shownText(html, matter.excerpt ?? null),
    title: matter.title,
    slug,
    writtenExcerpt: matter.excerpt ?? null,
    body,
    html,
    pipeline: pipelineOf(names.rules),
    categoryId: resolve('categories', 'category', matter.category),
    authorId: resolve('authors', 'author', matter.author),
    imageId: resolve('images', 'image', matter.image),
    imageText: matter['image-text'] ?? '',
    tagIds: (matter.tags ?? []).flatMap((tag) => resolve('tags', 'tags', tag) ?? []),
    publishedAt: published,
    commentsOpen: matter.comments !== 'closed',
  }
  return problems.length > 0 ? { ok: false, problems } : { ok: true, fields }
}

/** “Now” is the database's, by whose clock readers see a post or not. */
export async function byDatabaseClock(manager: EntityManager, post: PostFile): Promise<PostFile> {
  if (post.matter.published !== 'now') return post
  const [row] = await manager.query<{ now: Date }[]>('SELECT now() AS now')
  return { ...post, published: row?.now ?? post.published }
}

/** Writes a new post, or a new version of the one given; links its tags. */
export async function writePost(
  manager: EntityManager,
  { tagIds, ...fields }: Omit<PostFields, 'tags'>,
  existing: PostEntity | undefined,
): Promise<PostEntity> {
  const row = existing
    ? { ...existing, ...fields, version: existing.version + 1, updatedAt: new Date() }
    : manager.create(PostEntity, fields)
  const saved = await manager.save(PostEntity, { ...row, tags: tagIds.map((id) => ({ id }) as TagEntity) })
  return saved
}

/** What queries can see of a post: the basis of the purge. */
export const stateOf = (post: PostEntity): RowState => ({
  title: post.title,
  slug: post.slug,
  excerpt: post.excerpt,
  publishedAt: post.publishedAt?.toISOString() ?? null,
  wordCount: post.wordCount,
  commentsOpen: post.commentsOpen,
  html: post.html,
  imageText: post.imageText,
  categoryId: post.categoryId,
  authorId: post.authorId,
  imageId: post.imageId,
  tagIds: post.tags.map((tag) => tag.id).sort((a, b) => a - b),
})

/** The front matter of a stored post. */
export const matterOf = (post: PostEntity): PostMatter => ({
  title: post.title,
  slug: post.slug,
  ...(post.writtenExcerpt === null ? {} : { excerpt: post.writtenExcerpt }),
  ...(post.publishedAt ? { published: post.publishedAt.toISOString() } : {}),
  ...(post.category ? { category: post.category.slug } : {}),
  ...(post.author ? { author: post.author.slug } : {}),
  ...(post.tags.length > 0 ? { tags: post.tags.map((tag) => tag.slug).sort() } : {}),
  ...(post.image ? { image: post.image.name } : {}),
  ...(post.imageText === '' ? {} : { 'image-text': post.imageText }),
  ...(post.commentsOpen ? {} : { comments: 'closed' as const }),
})

/** A stored post with what it refers to. */
export const findPost = (database: DataSource | EntityManager, slug: string): Promise<PostEntity | null> =>
  database
    .getRepository(PostEntity)
    .findOne({ where: { slug }, relations: { category: true, author: true, image: true, tags: true } })

/** The file of a stored post, as an author edits it. */
export async function postFile(
  database: DataSource,
  slug: string,
): Promise<{ text: string; version: number } | undefined> {
  const post = await findPost(database, slug)
  return post ? { text: writeMatter(matterOf(post), post.body), version: post.version } : undefined
}

/** Several writes kept together: in one transaction, each in a part of its own that can fail by itself. */
export interface Batch {
  manager: EntityManager
  names: ContentNames
  /** Told to the blog once all is committed. */
  changes: Change[]
}

/** One write: in a transaction of its own, or as part of a batch. */
export const inTransaction = <T>(
  blog: Blog,
  batch: Batch | undefined,
  work: (manager: EntityManager, names: () => Promise<ContentNames>) => Promise<T>,
): Promise<T> =>
  (batch?.manager ?? blog.database).transaction((manager) =>
    work(manager, async () => batch?.names ?? (await loadNames(manager, blog.site.definition.htmlRules))),
  )

/** @returns keys of the copies that went; in a batch none, for they go at its end */
export function tellChange(blog: Blog, batch: Batch | undefined, change: Change): string[] {
  if (!batch) return blog.changed(change).dropped
  batch.changes.push(change)
  return []
}

export type SaveResult =
  | { outcome: 'saved'; slug: string; version: number; purged: string[] }
  | { outcome: 'problems'; problems: Problem[] }
  | { outcome: 'conflict'; version: number }
  | { outcome: 'unknown' }

/**
 * Saves a post from its file.
 * @param slug of the stored post; the file may give it a new one
 * @param version the author has read; another one in the database is a conflict
 */
export async function savePost(blog: Blog, slug: string, text: string, version: number): Promise<SaveResult> {
  return await writeRead(
    blog,
    slug,
    readPostFile(postPath(slug), text, blog.clock(), blog.site.definition),
    version,
  )
}

/** The same from its parts; where they name no slug, the post keeps its own. */
export async function savePostParts(
  blog: Blog,
  slug: string,
  parts: PostParts,
  version: number,
  batch?: Batch,
): Promise<SaveResult> {
  return await writeRead(
    blog,
    slug,
    readPost(postPath(slug), parts, blog.clock(), blog.site.definition),
    version,
    batch,
  )
}

async function writeRead(
  blog: Blog,
  slug: string,
  read: PostReading,
  version: number,
  batch?: Batch,
): Promise<SaveResult> {
  const file = postPath(slug)
  if (!read.ok) return { outcome: 'problems', problems: read.problems }
  const taken: SaveResult = {
    outcome: 'problems',
    problems: [
      {
        file,
        path: '/slug',
        ...read.placeOf(['slug']),
        message: `another post has the slug “${read.post.slug}”`,
      },
    ],
  }
  const saving = inTransaction(
    blog,
    batch,
    async (
      manager,
      names,
    ): Promise<SaveResult & { change?: { id: number; before: RowState; after: RowState } }> => {
      const existing = await manager.findOne(PostEntity, { where: { slug }, relations: { tags: true } })
      if (!existing) return { outcome: 'unknown' }
      // Locks the row; a save that was waiting sees the version the other one wrote.
      const [locked] = await manager.query<{ version: number; public: boolean }[]>(
        'SELECT version, coalesce(published_at <= now(), false) AS public FROM post WHERE id = $1 FOR UPDATE',
        [existing.id],
      )
      const current = locked?.version ?? 0
      if (current !== version || existing.version !== current)
        return { outcome: 'conflict', version: current }
      if (read.post.slug !== slug && (await manager.existsBy(PostEntity, { slug: read.post.slug })))
        return taken
      const fields = postFields(await byDatabaseClock(manager, read.post), await names())
      if (!fields.ok) return { outcome: 'problems', problems: fields.problems }
      const before = stateOf(existing)
      const saved = await writePost(manager, fields.fields, existing)
      // A slug that readers could use goes on leading to the post.
      if (saved.slug !== slug && locked?.public)
        await rememberSlug(manager, 'post', saved.id, slug, saved.slug)
      else if (saved.slug !== slug) await forgetSlug(manager, 'post', saved.slug)
      return {
        outcome: 'saved',
        slug: saved.slug,
        version: saved.version,
        purged: [],
        change: { id: saved.id, before, after: stateOf(saved) },
      }
    },
  )
  // Of two that take the same slug at once, the database lets one through.
  const result = await saving.catch((error: unknown) => {
    if (isUniqueViolation(error)) return { ...taken, change: undefined }
    throw error
  })
  const { change, ...outcome } = result
  if (outcome.outcome !== 'saved' || !change) return outcome
  return { ...outcome, purged: tellChange(blog, batch, { source: 'posts', ...change }) }
}
