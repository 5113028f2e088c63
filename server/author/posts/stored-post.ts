/** Stored posts: found, and written with rendered HTML and resolved references. */
import type { DataSource, EntityManager } from 'typeorm'
import { renderedText } from '../texts/rendered-text.ts'
import { pipelineOf } from '../../../core/content/html/markdown.ts'
import { refused, success, type Outcome } from '../../../core/shapes/outcome.ts'
import type { Problem } from '../../../core/shapes/problem.ts'
import { PostEntity, TagEntity } from '../../store/entities/content.ts'
import { databaseNow } from '../../store/content/locks.ts'
import type { ContentNames, ReferenceKind } from '../references.ts'
import { postFileOf, type PostFile } from './post-file.ts'

/** The columns of a post that its file decides, and the ids of its tags. */
export type PostColumns = Omit<
  PostEntity,
  | 'id'
  | 'category'
  | 'author'
  | 'image'
  | 'createdAt'
  | 'updatedAt'
  | 'version'
  | 'tags'
  | 'formerPublishedAt'
> & { tagIds: number[] }

/** Returns the columns for a file: references resolved, Markdown rendered, excerpt and words taken from the HTML. */
export async function postColumns(
  { file, slug, matter, body, published, placeOf }: PostFile,
  names: ContentNames,
): Promise<Outcome<PostColumns>> {
  const problems: Problem[] = []
  const resolve = (kind: ReferenceKind, place: readonly (string | number)[], name: string | undefined) => {
    if (name === undefined) return null
    const found = names.of[kind].find(name)
    if (found.ok) return found.id
    problems.push({ file, path: `/${place.join('/')}`, ...placeOf(place), ...found.problem })
    return null
  }
  const rendered = await renderedText(file, body, names)
  if (!rendered.ok) return rendered
  const { html, excerpt, wordCount } = rendered.value
  const columns = {
    excerpt: matter.excerpt ?? excerpt,
    wordCount,
    title: matter.title,
    slug,
    writtenExcerpt: matter.excerpt ?? null,
    body,
    html,
    pipeline: pipelineOf(names.rules),
    categoryId: resolve('category', ['category'], matter.category),
    authorId: resolve('author', ['author'], matter.author),
    imageId: resolve('image', ['image'], matter.image),
    imageText: matter['image-text'] ?? '',
    tagIds: (matter.tags ?? []).flatMap((tag, index) => resolve('tag', ['tags', index], tag) ?? []),
    publishedAt: published,
    commentsOpen: matter.comments !== 'closed',
  }
  return problems.length > 0 ? refused(...problems) : success(columns)
}

/** Replaces the time “now” with the database's, which decides whether readers see the post. */
export async function byDatabaseClock(manager: EntityManager, post: PostFile): Promise<PostFile> {
  return post.matter.published === 'now' ? { ...post, published: await databaseNow(manager) } : post
}

/** Writes a new post, or a new version of an existing one, with its tags. */
export async function writePost(
  manager: EntityManager,
  { tagIds, ...columns }: PostColumns,
  existing?: PostEntity,
): Promise<PostEntity> {
  const tags = tagIds.map((id) => ({ id }) as TagEntity)
  if (!existing) return await manager.save(PostEntity, manager.create(PostEntity, { ...columns, tags }))
  // Related rows are left out: they would take precedence over the changed ids.
  const { category, author, image, ...own } = existing
  return await manager.save(PostEntity, {
    ...own,
    ...columns,
    tags,
    formerPublishedAt: formerDate(existing, columns.publishedAt),
    version: existing.version + 1,
    updatedAt: new Date(),
  })
}

/** Returns the date to publish a post again with: that of a published post that is unpublished now. */
const formerDate = ({ publishedAt, formerPublishedAt }: PostEntity, next: Date | null): Date | null =>
  next === null && publishedAt !== null && publishedAt <= new Date() ? publishedAt : formerPublishedAt

/** Finds a post with everything it refers to. */
export const findPost = (database: DataSource | EntityManager, slug: string): Promise<PostEntity | null> =>
  database
    .getRepository(PostEntity)
    .findOne({ where: { slug }, relations: { category: true, author: true, image: true, tags: true } })

/** Finds a post with everything it refers to, and locks its row until the transaction ends. */
export async function lockPost(manager: EntityManager, slug: string): Promise<PostEntity | null> {
  const locked = await manager.findOne(PostEntity, {
    where: { slug },
    select: { id: true },
    lock: { mode: 'pessimistic_write' },
  })
  return locked && (await findPost(manager, slug))
}

/** Returns a stored post as a file. */
export async function postFile(
  database: DataSource | EntityManager,
  slug: string,
): Promise<{ text: string; version: number } | undefined> {
  const post = await findPost(database, slug)
  return post ? { text: postFileOf(post), version: post.version } : undefined
}
