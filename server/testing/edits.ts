/** Changes by the author, for tests: as the workbench saves them. */
import { savePostFile, type SavedPost } from '../author/posts/save-post.ts'
import { postFile } from '../author/posts/stored-post.ts'
import { saveDocuments, type SavedDocuments } from '../author/documents/documents.ts'
import { applyChanges, type AppliedChanges } from '../author/changes.ts'
import { changeSlug, type ChangedSlug } from '../author/slugs/slugs.ts'
import { undoBlocked, undoStep } from '../author/steps/undo-step.ts'
import { write, Writing } from '../author/writing.ts'
import { listSteps } from '../store/changes/steps.ts'
import type { ChangeStep } from '../../core/shapes/changes.ts'
import type { SlugKind } from '../../core/shapes/content-kinds.ts'
import { loadDocuments } from '../publish/documents.ts'
import type { Blog } from '../reader/blog.ts'
import type { Written } from '../store/store.ts'
import { DocumentEntity } from '../store/entities/definition.ts'

/** Changes the file of a post. */
export async function editPost(
  blog: Blog,
  slug: string,
  change: (text: string) => string,
): Promise<Written<SavedPost>> {
  const file = await postFile(blog.database, slug)
  if (!file) throw new Error(`There is no post “${slug}”.`)
  const ref = { slug, version: file.version }
  return await write(blog, (writing) => savePostFile(writing, ref, change(file.text)))
}

/** Saves documents of the definition, or deletes those that are null, and activates the definition. */
export async function saveTexts(
  blog: Blog,
  texts: Readonly<Record<string, string | null>>,
  { insist = false } = {},
): Promise<Written<SavedDocuments>> {
  const stored = await blog.database.getRepository(DocumentEntity).find()
  const versions = new Map(stored.map((one) => [one.path, one.version]))
  const writes = Object.entries(texts).map(([path, text]) => ({
    path,
    text,
    version: versions.get(path) ?? 0,
  }))
  return await write(blog, (writing) => saveDocuments(writing, writes, blog.publishing(insist)))
}

/** Saves documents as they were, and deletes those that are new. */
export async function restoreTexts(blog: Blog, before: ReadonlyMap<string, string>): Promise<void> {
  const now = await loadDocuments(blog.database)
  const changed = [...new Set([...before.keys(), ...now.keys()])].filter(
    (path) => before.get(path) !== now.get(path),
  )
  if (changed.length === 0) return
  const texts = Object.fromEntries(changed.map((path) => [path, before.get(path) ?? null]))
  const saved = await saveTexts(blog, texts, { insist: true })
  if (!saved.ok) throw new Error(JSON.stringify(saved))
}

/** Returns the stored text of a document. */
export const textOf = async ({ database }: Blog, path: string): Promise<string> =>
  (await database.getRepository(DocumentEntity).findOneByOrFail({ path })).text

/** Applies changes, as the workbench applies a fix. */
export const applySteps = (blog: Blog, steps: readonly ChangeStep[]): Promise<Written<AppliedChanges>> =>
  write(blog, (writing) => applyChanges(writing, steps, blog.publishing()))

/** Changes a slug, or the path of a page. */
export const renameSlug = (
  blog: Blog,
  kind: SlugKind,
  from: string,
  to: string,
): Promise<Written<ChangedSlug>> => write(blog, (writing) => changeSlug(writing, { kind, from, to }))

/** Undoes the latest change of content. What cannot be undone changes nothing. */
export async function undoLatest(blog: Blog): Promise<void> {
  const [latest] = await listSteps(blog.database.manager, {
    before: undefined,
    of: 'content',
    limit: 1,
    extent: { entries: 0, text: 0 },
  })
  if (!latest) return
  const { definition } = blog.site
  await blog.store.write(
    (unit) => undoStep(new Writing(unit, definition, blog.clock()), latest.id, blog.publishing()),
    undoBlocked,
  )
}
