/** Imports posts from Markdown files with front matter, many at once. */
import { setImmediate } from 'node:timers/promises'
import type { DroppedCopy } from '../../../core/caching/store.ts'
import { writeMatter } from '../../../core/content/front-matter.ts'
import { blocked, success, type Outcome } from '../../../core/shapes/outcome.ts'
import type { TermKind } from '../../../core/shapes/content-kinds.ts'
import type { Problem } from '../../../core/shapes/problem.ts'
import type { PostMatter } from '../../../core/shapes/content-schemas.ts'
import { PostEntity } from '../../store/entities/content.ts'
import { IMPORT_PROBLEMS } from '../problems.ts'
import type { ContentNames } from '../references.ts'
import { createTerm } from '../terms/terms.ts'
import { write, type Writing, type WritingPorts } from '../writing.ts'
import { matterOf, readPostFile, type PostFile } from './post-file.ts'
import { createPost, savePost } from './save-post.ts'
import { findPost } from './stored-post.ts'

export interface NamedText {
  name: string
  text: string
}

export interface ImportedFile {
  file: string
  outcome: 'created' | 'changed' | 'unchanged' | 'refused'
  slug: string | null
  problems: Problem[]
}

/** A category, author or tag that files refer to and that does not exist. */
export interface MissingTerm {
  kind: 'category' | 'author' | 'tag'
  name: string
  /** The names of the files that refer to it. */
  files: string[]
}

export interface PostsImport {
  /** Whether anything was imported. If not, the results say what would have become of each file. */
  isDone: boolean
  results: ImportedFile[]
  missing: MissingTerm[]
  /** The copies that were dropped. */
  purged: DroppedCopy[]
}

/** After how many files readers get a turn. */
const TURN = 10

export interface ImportOptions {
  /** Creates categories, authors and tags that do not exist. */
  createMissing?: boolean
  /** Imports the other files if some are refused. Without it, all are imported or none. */
  skipRefused?: boolean
  /** Called after each file with the number of files so far. */
  progress?: (done: number) => void
  /** Ends the import: then nothing is imported. */
  signal?: AbortSignal
}

/** Imports files as one transaction. */
export async function importPosts(
  ports: WritingPorts,
  files: readonly NamedText[],
  { createMissing = false, skipRefused = false, progress, signal }: ImportOptions = {},
): Promise<PostsImport> {
  let found: Pick<PostsImport, 'results' | 'missing'> = { results: [], missing: [] }
  const importAll = async (writing: Writing) => {
    const read: { name: string; read: Outcome<PostFile> }[] = []
    for (const { name, text } of files) {
      if (read.length % TURN === 0) await setImmediate()
      read.push({ name, read: readPostFile(name, text, writing.now, writing.definition) })
    }
    let missing = await missingTerms(writing, read)
    if (createMissing) missing = await createTerms(writing, missing)
    const results: ImportedFile[] = []
    for (const { name, read: post } of read) {
      if (signal?.aborted) return blocked({ file: name, ...IMPORT_PROBLEMS['import-stopped']() })
      results.push(post.ok ? await importPost(writing, post.value) : refusedFile(name, post.problems))
      progress?.(results.length)
    }
    found = { results, missing }
    const refusedOne = results.find((one) => one.outcome === 'refused')
    return refusedOne && !skipRefused
      ? blocked({ file: refusedOne.file, ...IMPORT_PROBLEMS['import-refused']() })
      : success(null)
  }
  const written = await write(ports, importAll)
  return { ...found, isDone: written.ok, purged: written.ok ? written.purged : [] }
}

const refusedFile = (file: string, problems: readonly Problem[]): ImportedFile => ({
  file,
  outcome: 'refused',
  slug: null,
  problems: problems.map((one) => ({ ...one, file })),
})

/** Collects what all files refer to and does not exist, so that it can be created in one step. */
async function missingTerms(
  writing: Writing,
  files: readonly { name: string; read: Outcome<PostFile> }[],
): Promise<MissingTerm[]> {
  const names = await writing.names()
  const missing = new Map<string, MissingTerm>()
  for (const { name: file, read } of files) {
    if (!read.ok) continue
    const { category, author, tags = [] } = read.value.matter
    const wanted = [
      ...(category === undefined ? [] : [['category', category] as const]),
      ...(author === undefined ? [] : [['author', author] as const]),
      ...tags.map((tag) => ['tag', tag] as const),
    ]
    for (const [kind, name] of wanted) {
      const found = names.of[kind].find(name)
      if (found.ok || found.problem.code !== 'reference-unknown') continue
      const known = missing.get(`${kind} ${name}`)
      if (known) known.files.push(file)
      else missing.set(`${kind} ${name}`, { kind, name, files: [file] })
    }
  }
  return [...missing.values()]
}

/** Creates missing terms. @returns those that could not be created */
async function createTerms(writing: Writing, missing: readonly MissingTerm[]): Promise<MissingTerm[]> {
  const left: MissingTerm[] = []
  for (const term of missing) {
    const created = await createTerm(writing, term.kind, termParts(term.name))
    if (!created.ok) left.push(term)
  }
  return left
}

/** A slug such as `bread-and-butter` becomes the name “Bread and butter”. */
function termParts(text: string): { name: string; slug?: string } {
  if (!/^[a-z0-9]+(-[a-z0-9]+)*$/.test(text)) return { name: text.trim() }
  const words = text.replaceAll('-', ' ')
  return { name: words.charAt(0).toUpperCase() + words.slice(1), slug: text }
}

/** Imports one file as a new post or as a new version of the post that has its slug. */
async function importPost(writing: Writing, post: PostFile): Promise<ImportedFile> {
  const { file, slug, matter, body } = post
  const parts = { matter: { ...matter, slug }, body, placeOf: post.placeOf }
  // Most files of a large import are new, so a cheap query decides first.
  const exists = await writing.manager.existsBy(PostEntity, { slug })
  const stored = exists ? await findPost(writing.manager, slug) : null
  if (!stored) {
    const created = await createPost(writing, parts)
    return created.ok
      ? { file, outcome: 'created', slug: created.value.slug, problems: [] }
      : refusedFile(file, created.problems)
  }
  const published = post.published?.toISOString()
  const wanted = {
    ...withSlugs(parts.matter, await writing.names()),
    ...(published === undefined ? {} : { published }),
  }
  if (writeMatter(sorted(wanted), body) === writeMatter(sorted(matterOf(stored)), stored.body))
    return { file, outcome: 'unchanged', slug, problems: [] }
  const saved = await savePost(writing, { slug, version: stored.version }, parts)
  return saved.ok
    ? { file, outcome: 'changed', slug: saved.value.slug, problems: [] }
    : refusedFile(file, saved.problems)
}

/** Replaces names of categories, authors and tags by their slugs, as a stored post has them. */
function withSlugs(matter: PostMatter, { of }: ContentNames): PostMatter {
  const slug = (kind: TermKind, text: string) => {
    const found = of[kind].find(text)
    return found.ok ? found.slug : text
  }
  const { category, author, tags } = matter
  return {
    ...matter,
    ...(category === undefined ? {} : { category: slug('category', category) }),
    ...(author === undefined ? {} : { author: slug('author', author) }),
    ...(tags === undefined ? {} : { tags: tags.map((one) => slug('tag', one)) }),
  }
}

/** Sorts the keys, and the tags, whose order in a file has no meaning. */
const sorted = (matter: object) =>
  Object.fromEntries(
    Object.entries(matter)
      .filter(([, value]) => value !== undefined)
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([key, value]) => [
        key,
        Array.isArray(value) ? [...(value as string[])].sort() : (value as unknown),
      ]),
  )
