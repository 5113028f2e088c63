/** What each operation of the contract does. */
import { randomUUID } from 'node:crypto'
import { documentKind } from '../../core/shapes/documents.ts'
import type { Problem } from '../../core/shapes/problem.ts'
import { answer } from '../reader/answer.ts'
import type { Blog } from '../reader/blog.ts'
import { buildSite } from '../publish/site.ts'
import { Walk } from '../reader/walk/walk.ts'
import { headersOf } from '../probes/walked-runs.ts'
import { explainEmptyResults } from '../probes/why-empty.ts'
import { saveDocument, saveDocuments, type DocumentSave } from '../author/documents/documents.ts'
import { loadDocuments } from '../publish/documents.ts'
import { pageFile, readPageFile, savePageFile, type PageResult } from '../author/pages/pages.ts'
import { postFile, postPath, readPostFile, savePost, type SaveResult } from '../author/posts/posts.ts'
import { DocumentEntity } from '../store/entities/definition.ts'
import type { Checks } from '../checks/service.ts'
import type { OwnIndexes } from '../store/indexes/own-indexes.ts'
import type { GrowthJobs } from '../growth/job.ts'
import type { AnswerOf, BodyOf, QueryOf, WalkRecord } from '../../contract/operations.ts'
import type { Handlers } from './http/handlers-of.ts'
import { firstAddress, suggestions } from './walk/suggestions.ts'
import { checkHandlers } from './checks/handlers.ts'
import { contentHandlers } from './content/handlers.ts'
import { growthHandlers } from './queries/growth-handlers.ts'
import { postHandlers } from './content/post-handlers.ts'
import { queryHandlers } from './queries/handlers.ts'
import { routeHandlers } from './routes/handlers.ts'
import { Refusal } from './http/refusal.ts'

/** `content/posts/why-it-trips.md` → `why-it-trips`. */
const postSlug = (path: string) => /^content\/posts\/([a-z0-9-]+)\.md$/.exec(path)?.[1]
/** `content/pages/about/people.md` → `about/people`. */
const pagePath = (path: string) => /^content\/pages\/([a-z0-9/-]+)\.md$/.exec(path)?.[1]

const asItems = (problems: readonly Problem[]) => problems.map((one) => ({ ...one }))

export interface Services {
  blog: Blog
  blogOrigin: string
  checks: Checks
  growth: GrowthJobs
  indexes: OwnIndexes
}

export function makeHandlers({ blog, blogOrigin, checks, growth, indexes }: Services): Handlers {
  return {
    ...routeHandlers(blog),
    ...checkHandlers(checks),
    ...postHandlers(blog),
    ...contentHandlers(blog),
    ...queryHandlers(blog),
    ...growthHandlers(blog, growth, indexes),
    'GET /api/session': () => ({
      title: blog.site.definition.settings.title,
      blog: blogOrigin,
      version: blog.site.version,
      start: firstAddress(blog),
    }),
    'GET /api/walk': ({ query }) => walk(blog, query),
    'GET /api/suggestions': () => suggestions(blog),
    'GET /api/documents': async () => {
      const rows = await blog.database.getRepository(DocumentEntity).find({ order: { path: 'ASC' } })
      return rows.map(({ path, text, version }) => ({
        path,
        kind: documentKind(path) ?? 'unknown',
        version,
        characters: text.length,
      }))
    },
    'GET /api/document': ({ query }) => readDocument(blog, query.path),
    'PUT /api/document': ({ body }) => save(blog, body),
    'POST /api/document/remove': async ({ body: { path, version } }) => {
      const result = await saveDocuments(blog, [{ path, text: null, version }])
      if (result.outcome === 'saved') return { path }
      throw await refusalOf(blog, path, result)
    },
    'PUT /api/documents': ({ body }) => saveTogether(blog, body),
    'POST /api/document/check': async ({ body }) => ({ problems: asItems(await check(blog, body)) }),
    'GET /api/traffic': () => blog.traffic.recent(),
    'GET /api/copies': () => {
      const now = blog.clock().getTime()
      const copies = [...blog.fragments.entries()].map(([key, { name, html, tags, madeAt, expiresAt }]) => ({
        key,
        name,
        bytes: html.length,
        ageMilliseconds: now - madeAt,
        remainingMilliseconds: expiresAt - now,
        tags: [...tags].sort(),
      }))
      return { copies, bytes: blog.fragments.bytes }
    },
    'DELETE /api/copies': () => {
      const dropped = [...blog.fragments.entries()].length
      blog.fragments.clear()
      return { dropped }
    },
  }
}

async function walk(
  blog: Blog,
  { path, as = 'reader', gets = 'page', method = 'GET' }: QueryOf<'GET /api/walk'>,
): Promise<WalkRecord> {
  const target = path.startsWith('/') ? path : `/${path}`
  const id = randomUUID()
  const record = new Walk({ id, method, target, as, gets }, blog.clock(), blog.site.version)
  const refuse = { ok: false as const, status: 415 as const, reason: 'a walk sends no form' }
  await answer(
    blog,
    { id, method, target, as, header: headersOf(gets), form: () => Promise.resolve(refuse) },
    record,
  )
  if (record.record.failure === null) await explainEmptyResults(blog, record)
  return record.record
}

async function readDocument(blog: Blog, path: string): Promise<AnswerOf<'GET /api/document'>> {
  const slug = postSlug(path)
  const page = pagePath(path)
  const found =
    slug !== undefined
      ? await postFile(blog.database, slug)
      : page !== undefined
        ? await pageFile(blog.database, page)
        : await blog.database.getRepository(DocumentEntity).findOneBy({ path })
  if (!found) throw new Refusal({ status: 404, title: `There is no document “${path}”` })
  return { path, text: found.text, version: found.version }
}

async function save(
  blog: Blog,
  { path, text, version }: BodyOf<'PUT /api/document'>,
): Promise<AnswerOf<'PUT /api/document'>> {
  const slug = postSlug(path)
  const page = pagePath(path)
  if (page !== undefined) {
    const result = await savePageFile(blog, { path: page, version }, text)
    if (result.outcome === 'saved') return { path, version: result.version, purged: result.purged }
    throw await refusalOf(blog, path, result)
  }
  if (slug === undefined) {
    const result = await saveDocument(blog, path, text, version)
    if (result.outcome === 'saved') return { path, version: result.version, purged: [] }
    throw await refusalOf(blog, path, result)
  }
  const result = await savePost(blog, slug, text, version)
  if (result.outcome === 'saved')
    return { path: postPath(result.slug), version: result.version, purged: result.purged }
  throw await refusalOf(blog, path, result)
}

async function saveTogether(
  blog: Blog,
  { changes }: BodyOf<'PUT /api/documents'>,
): Promise<AnswerOf<'PUT /api/documents'>> {
  const result = await saveDocuments(blog, changes)
  if (result.outcome === 'saved') return { versions: result.versions }
  throw await refusalOf(blog, result.outcome === 'conflict' ? result.path : (changes[0]?.path ?? ''), result)
}

async function refusalOf(
  blog: Blog,
  path: string,
  result: Exclude<SaveResult | PageResult | DocumentSave, { outcome: 'saved' }>,
): Promise<Refusal> {
  switch (result.outcome) {
    case 'problems':
      return new Refusal({
        status: 422,
        title: 'Not saved: the last good version keeps running',
        problems: asItems(result.problems),
      })
    case 'conflict': {
      const stored = await readDocument(blog, path)
      return new Refusal({
        status: 409,
        title: 'Somebody else saved this meanwhile',
        detail: 'Compare both versions, then save again.',
        document: path,
        version: stored.version,
        text: stored.text,
      })
    }
    case 'unknown':
      return new Refusal({ status: 404, title: `There is no document “${path}”` })
  }
}

async function check(blog: Blog, { path, text }: BodyOf<'POST /api/document/check'>): Promise<Problem[]> {
  if (postSlug(path) !== undefined) {
    const result = readPostFile(path, text, blog.clock(), blog.site.definition)
    return result.ok ? [] : result.problems
  }
  const page = pagePath(path)
  if (page !== undefined) {
    const result = readPageFile(page, text)
    return result.ok ? [] : result.problems
  }
  const documents = await loadDocuments(blog.database)
  documents.set(path, text)
  const built = buildSite(blog.database, documents)
  return built.ok ? [] : built.problems
}
