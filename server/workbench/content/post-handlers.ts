/** Handlers of the operations on posts. */
import type { BodyOf } from '../../../contract/operations.ts'
import type { Post, postOperations } from '../../../contract/posts.ts'
import type { Failure, Outcome } from '../../../core/shapes/outcome.ts'
import { blocked, success, unknown } from '../../../core/shapes/outcome.ts'
import { importPosts } from '../../author/posts/import-posts.ts'
import { matterOf, postPath } from '../../author/posts/post-file.ts'
import { listPosts } from '../../author/posts/post-list.ts'
import { changePost, createPost, deletePost, savePost, writePreview } from '../../author/posts/save-post.ts'
import { findPost } from '../../author/posts/stored-post.ts'
import { IMPORT_PROBLEMS, ROW_PROBLEMS } from '../../author/problems.ts'
import { termsWithPosts } from '../../store/content/terms.ts'
import { write, type Writing } from '../../author/writing.ts'
import { appearancesOf } from '../../probes/appearances.ts'
import { previewAt } from '../../probes/preview.ts'
import { rehearse } from '../../probes/rehearse.ts'
import { addressFor } from '../../reader/addresses/slug-address.ts'
import type { AnswerPorts } from '../../reader/answer.ts'
import type { StorePort } from '../../publish/ports.ts'
import type { UncachedPort } from '../../reader/ports.ts'
import { formerSlugsOf } from '../../store/content/slugs.ts'
import { postState } from '../../store/content/posts.ts'
import { imagesWithPosts } from '../../store/content/images.ts'
import { PostEntity } from '../../store/entities/content.ts'
import { mapValue, withPurged, type HandlersOf } from '../http/handlers-of.ts'
import { MOST_FILES, MOST_MEGABYTES, StagedImport, StagedImports } from './staged-imports.ts'
import type { TermKind } from '../../../core/shapes/content-kinds.ts'

type Ports = AnswerPorts & UncachedPort & StorePort

export const postHandlers = (
  blog: Ports,
  imports = new StagedImports(),
): HandlersOf<typeof postOperations> => ({
  'GET /api/posts': async ({ query: { page = '1', size = '25', ...filter } }) => {
    const at = { page: Number(page), size: Number(size) }
    const { posts, ...counts } = await listPosts(blog.database, { ...filter, ...at })
    return success({
      posts: posts.map((one) => ({
        ...one,
        publishedAt: one.publishedAt?.toISOString() ?? null,
        updatedAt: one.updatedAt.toISOString(),
      })),
      ...counts,
      ...at,
    })
  },
  'GET /api/post': ({ query }) => readPost(blog, query.slug),
  'POST /api/posts': async ({ body }) =>
    withPurged(await write(blog, (writing) => createPost(writing, body))),
  'PUT /api/post': async ({ query: { slug }, body: { version, ...parts } }) =>
    withPurged(await write(blog, (writing) => savePost(writing, { slug, version }, parts))),
  'POST /api/posts/change': ({ body: { posts, change } }) =>
    together(blog, posts, async (writing, ref) =>
      mapValue(await changePost(writing, ref, change), ({ version }) => ({ version, deleted: null })),
    ),
  'POST /api/posts/delete': ({ body: { posts } }) =>
    together(blog, posts, async (writing, ref) =>
      mapValue(await deletePost(writing, ref), ({ deleted }) => ({ version: null, deleted })),
    ),
  'POST /api/posts/import': ({ body }) => importFiles(blog, imports, body),
  'GET /api/posts/import': ({ query }) => {
    const staged = imports.get(query.import)
    return Promise.resolve(
      staged
        ? success({ done: staged.done, total: staged.files.length })
        : unknown({ file: 'import', ...IMPORT_PROBLEMS['import-unknown']() }),
    )
  },
  'DELETE /api/posts/import': ({ query }) => {
    imports.forget(query.import)
    return Promise.resolve(success({}))
  },
  'POST /api/post/preview': ({ body }) => preview(blog, body),
  'GET /api/post/appearances': ({ query }) => appearances(blog, query.slug),
  'GET /api/names': async () => success(await names(blog)),
})

/** Keeps files until the last ones have come, and imports all of them then. Files remain until they are imported. */
async function importFiles(
  blog: Ports,
  imports: StagedImports,
  {
    import: id,
    files,
    more = false,
    createMissing = false,
    skipRefused = false,
  }: BodyOf<'POST /api/posts/import'>,
) {
  const staged = id === undefined ? new StagedImport() : (imports.get(id) ?? imports.begin(id))
  if (!staged.add(files))
    return blocked({ file: 'import', ...IMPORT_PROBLEMS['import-too-large'](MOST_FILES, MOST_MEGABYTES) })
  if (staged.files.length === 0) return unknown({ file: 'import', ...IMPORT_PROBLEMS['import-unknown']() })
  staged.done = 0
  if (more) return success({ isDone: false, results: [], missing: [], purged: [] })
  const { isDone, results, missing, purged } = await importPosts(blog, staged.files, {
    createMissing,
    skipRefused,
    signal: staged.signal,
    progress: (done) => (staged.done = done),
  })
  if (isDone && id !== undefined) imports.forget(id)
  return success({
    isDone,
    results: results.map(({ problems, ...one }) => ({
      ...one,
      problems: problems.map((problem) => ({ ...problem })),
    })),
    missing,
    purged,
  })
}

type Refs = BodyOf<'POST /api/posts/delete'>['posts']

/** Runs a write for several posts as one: if it fails for some, nothing is changed, and all problems are reported. */
async function together(
  blog: Ports,
  posts: Refs,
  work: (
    writing: Writing,
    ref: Refs[number],
  ) => Promise<Outcome<{ version: number | null; deleted: number | null }>>,
) {
  const written = await write(blog, async (writing) => {
    const results = []
    const failures: Failure[] = []
    for (const ref of posts) {
      const outcome = await writing.attempt((part) => work(part, ref))
      if (outcome.ok) results.push({ slug: ref.slug, ...outcome.value })
      else failures.push(outcome)
    }
    const [first] = failures
    return first ? { ...first, problems: failures.flatMap((one) => one.problems) } : success({ results })
  })
  return withPurged(written)
}

const unknownPost = (slug: string) =>
  unknown({ file: postPath(slug), ...ROW_PROBLEMS['row-unknown']('post', slug) })

async function readPost(blog: Ports, slug: string): Promise<Outcome<Post>> {
  const { manager } = blog.database
  const post = await findPost(manager, slug)
  if (!post) return unknownPost(slug)
  return success({
    slug: post.slug,
    version: post.version,
    state: await postState(manager, post.id),
    matter: matterOf(post),
    body: post.body,
    excerpt: post.excerpt,
    wordCount: post.wordCount,
    address: addressFor(blog, 'post', post.slug)?.path ?? null,
    former: await formerSlugsOf(manager, 'post', post.id),
    formerPublishedAt: post.publishedAt ? null : (post.formerPublishedAt?.toISOString() ?? null),
    createdAt: post.createdAt.toISOString(),
    updatedAt: post.updatedAt.toISOString(),
  })
}

async function preview(blog: Ports, { slug, ...parts }: BodyOf<'POST /api/post/preview'>) {
  const addressOf = (post: PostEntity) => addressFor(blog, 'post', post.slug)?.path ?? null
  const shown = await previewAt(blog, (writing) => writePreview(writing, slug, parts), addressOf)
  return mapValue(shown, ({ value, status, html, policy }) => ({
    path: addressOf(value),
    wordCount: value.wordCount,
    excerpt: value.excerpt,
    status,
    html,
    policy,
  }))
}

async function appearances(blog: Ports, slug: string) {
  const post = await findPost(blog.database, slug)
  if (!post) return unknownPost(slug)
  const isPublic = (await postState(blog.database.manager, post.id)) === 'published'
  const nowhere = { found: [], beside: [] }
  if (isPublic) return success({ isPublic, ...((await appearancesOf(blog, slug)) ?? nowhere) })
  const rehearsed = await rehearse(
    blog,
    async ({ manager }) =>
      success(await manager.update(PostEntity, { id: post.id }, { publishedAt: () => 'now()' })),
    (changed) => appearancesOf(changed, slug),
  )
  return mapValue(rehearsed, (found) => ({ isPublic, ...(found ?? nowhere) }))
}

async function names(blog: Ports) {
  const { database } = blog
  const terms = async (kind: TermKind) =>
    (await termsWithPosts(database, kind)).map(({ slug, name, depth, published, scheduled, draft }) => ({
      slug,
      name,
      depth,
      posts: published + scheduled + draft,
    }))
  const [categories, authors, tags, images] = await Promise.all([
    terms('category'),
    terms('author'),
    terms('tag'),
    imagesWithPosts(database),
  ])
  return { categories, authors, tags, images, timeZone: blog.site.definition.timeZone }
}
