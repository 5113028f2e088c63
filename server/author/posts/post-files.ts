/** Posts in and out as Markdown files with front matter, many at once. */
import { strToU8, Zip, ZipDeflate } from 'fflate'
import type { DataSource } from 'typeorm'
import { writeMatter } from '../../../core/content/front-matter.ts'
import type { Problem } from '../../../core/shapes/problem.ts'
import type { Blog } from '../../reader/blog.ts'
import { PostEntity } from '../../store/entities/content.ts'
import { createPost } from './post-actions.ts'
import { findPost, loadNames, matterOf, postPath, readPostFile, savePostParts, type Batch } from './posts.ts'

export interface ImportedFile {
  file: string
  outcome: 'made' | 'changed' | 'same' | 'refused'
  slug: string | null
  problems: Problem[]
}

/**
 * Brings in files that came together: in one transaction, in which each can be refused by itself. When that fails as a
 * whole, one by one.
 */
export async function importPosts(
  blog: Blog,
  files: readonly { name: string; text: string }[],
): Promise<ImportedFile[]> {
  const each = async (batch?: Batch) => {
    const results: ImportedFile[] = []
    for (const { name, text } of files) results.push(await importPost(blog, name, text, batch))
    return results
  }
  try {
    const { results, changes } = await blog.database.transaction(async (manager) => {
      const names = await loadNames(manager, blog.site.definition.htmlRules)
      const batch: Batch = { manager, names, changes: [] }
      return { results: await each(batch), changes: batch.changes }
    })
    for (const change of changes) blog.changed(change)
    return results
  } catch (error) {
    // Two who bring in the same posts in another order wait for each other: PostgreSQL ends one of them.
    if (!isDeadlock(error)) throw error
    return await each()
  }
}

const isDeadlock = (error: unknown) =>
  typeof error === 'object' && error !== null && 'code' in error && error.code === '40P01'

/**
 * Brings in one file: a new post, or a new version of the one that has its slug. A file that says what is stored already
 * changes nothing.
 */
async function importPost(blog: Blog, file: string, text: string, batch?: Batch): Promise<ImportedFile> {
  const refused = (problems: Problem[]): ImportedFile => ({ file, outcome: 'refused', slug: null, problems })
  const read = readPostFile(file, text, blog.clock(), blog.site.definition)
  if (!read.ok) return refused(read.problems)
  const { slug, matter, body } = read.post
  const parts = { matter: { ...matter, slug }, body, placeOf: read.placeOf }
  const database = batch?.manager ?? blog.database.manager
  // Most files of many are new: whether one is there is asked more cheaply than for all of it.
  const [there] = await database.query<unknown[]>('SELECT 1 FROM post WHERE slug = $1', [slug])
  const stored = there === undefined ? null : await findPost(database, slug)
  if (!stored) {
    const made = await createPost(blog, parts, batch)
    return made.outcome === 'created'
      ? { file, outcome: 'made', slug: made.slug, problems: [] }
      : refused(made.problems.map((one) => ({ ...one, file })))
  }
  const published = read.post.published?.toISOString()
  const wanted = { ...parts.matter, ...(published === undefined ? {} : { published }) }
  if (writeMatter(sorted(wanted), body) === writeMatter(sorted(matterOf(stored)), stored.body))
    return { file, outcome: 'same', slug, problems: [] }
  const saved = await savePostParts(blog, slug, parts, stored.version, batch)
  if (saved.outcome === 'saved') return { file, outcome: 'changed', slug: saved.slug, problems: [] }
  return refused(
    saved.outcome === 'problems'
      ? saved.problems.map((one) => ({ ...one, file }))
      : [{ file, message: 'somebody else saved this post at the same moment; bring the file in again' }],
  )
}

const sorted = (matter: object) =>
  Object.fromEntries(
    Object.entries(matter)
      .filter(([, value]) => value !== undefined)
      .sort(([a], [b]) => (a < b ? -1 : 1))
      // Tags are a set: their order in a file says nothing.
      .map(([key, value]) => [
        key,
        Array.isArray(value) ? [...(value as string[])].sort() : (value as unknown),
      ]),
  )

/** Posts read at a time. */
const BATCH = 200

/** All posts as files in a ZIP archive, piece by piece. */
export async function* exportPosts(database: DataSource): AsyncGenerator<Uint8Array> {
  const ready: Uint8Array[] = []
  let failure: Error | null = null
  const archive = new Zip((error, piece) => {
    if (error) failure = error
    else ready.push(piece)
  })
  for (let last = 0; ;) {
    const posts = await database
      .getRepository(PostEntity)
      .createQueryBuilder('post')
      .leftJoinAndSelect('post.category', 'category')
      .leftJoinAndSelect('post.author', 'author')
      .leftJoin('post.image', 'image')
      .addSelect(['image.id', 'image.name'])
      .leftJoinAndSelect('post.tags', 'tag')
      .where('post.id > :last', { last })
      .orderBy('post.id')
      .take(BATCH)
      .getMany()
    for (const post of posts) {
      const entry = new ZipDeflate(postPath(post.slug), { level: 6 })
      entry.mtime = post.updatedAt
      archive.add(entry)
      entry.push(strToU8(writeMatter(matterOf(post), post.body)), true)
    }
    if (failure) throw failure as Error
    yield* ready.splice(0)
    if (posts.length < BATCH) break
    last = posts.at(-1)?.id ?? last
  }
  archive.end()
  yield* ready.splice(0)
}
