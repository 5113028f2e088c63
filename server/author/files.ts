/** Posts and pages as files: `content/posts/SLUG.md` and `content/pages/PATH.md`. */
import type { DataSource, EntityManager } from 'typeorm'
import { success, type Outcome } from '../../core/shapes/outcome.ts'
import { pageFile } from './pages/page-file.ts'
import { savePageFile } from './pages/pages.ts'
import { postPath } from './posts/post-file.ts'
import { savePostFile } from './posts/save-post.ts'
import { postFile } from './posts/stored-post.ts'
import type { Writing } from './writing.ts'

/** Returns the slug of the post that a path names. */
export const postSlugOf = (path: string): string | undefined =>
  /^content\/posts\/([a-z0-9-]+)\.md$/.exec(path)?.[1]

/** Returns the path of the page that a file's path names. */
export const pagePathOf = (path: string): string | undefined =>
  /^content\/pages\/([a-z0-9/-]+)\.md$/.exec(path)?.[1]

/** Returns a stored post or page as a file; undefined if there is none. */
export async function readStored(
  database: DataSource | EntityManager,
  path: string,
): Promise<{ text: string; version: number } | undefined> {
  const slug = postSlugOf(path)
  if (slug !== undefined) return await postFile(database, slug)
  const page = pagePathOf(path)
  return page === undefined ? undefined : await pageFile(database, page)
}

export interface SavedFile {
  /** The path of the file from now on. */
  path: string
  version: number
}

/** Saves a post or a page from its file. */
export async function saveFile(
  writing: Writing,
  { path, version }: { path: string; version: number },
  text: string,
): Promise<Outcome<SavedFile>> {
  const slug = postSlugOf(path)
  const saved =
    slug === undefined
      ? await savePageFile(writing, { path: pagePathOf(path) ?? path, version }, text)
      : await savePostFile(writing, { slug, version }, text)
  if (!saved.ok) return saved
  return success({
    path: 'slug' in saved.value ? postPath(saved.value.slug) : path,
    version: saved.value.version,
  })
}
