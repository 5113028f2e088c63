/** Handlers of the operations on documents. */
import type { documentOperations } from '../../../contract/documents.ts'
import type { BodyOf } from '../../../contract/operations.ts'
import { findText } from '../../../core/blog/find-text.ts'
import { documentUses } from '../../../core/blog/document-uses.ts'
import { documentKind } from '../../../core/shapes/documents.ts'
import { success, unknown, type Outcome } from '../../../core/shapes/outcome.ts'
import type { Problem } from '../../../core/shapes/problem.ts'
import { DOCUMENT_PROBLEMS } from '../../../core/shapes/problems.ts'
import { applyChanges } from '../../author/changes.ts'
import { saveDocuments } from '../../author/documents/documents.ts'
import { pagePathOf, postSlugOf, readStored, saveFile } from '../../author/files.ts'
import { readPageFile } from '../../author/pages/page-file.ts'
import { readPostFile } from '../../author/posts/post-file.ts'
import { write } from '../../author/writing.ts'
import { loadDocuments } from '../../publish/documents.ts'
import type { ClockPort, DatabasePort, PublishPort, SitePort, StorePort } from '../../publish/ports.ts'
import { addressFor } from '../../reader/addresses/slug-address.ts'
import { DocumentEntity } from '../../store/entities/definition.ts'
import { mapValue, withPurged, type HandlersOf } from '../http/handlers-of.ts'
import type { SlugKind } from '../../../core/shapes/content-kinds.ts'

type Ports = DatabasePort & SitePort & StorePort & ClockPort & PublishPort

export const documentHandlers = (blog: Ports): HandlersOf<typeof documentOperations> => ({
  'GET /api/documents': async () => {
    const rows = await blog.database.getRepository(DocumentEntity).find({ order: { path: 'ASC' } })
    const uses = documentUses(blog.site.definition)
    return success(
      rows.map(({ path, text, version }) => ({
        path,
        kind: documentKind(path) ?? 'unknown',
        version,
        characters: text.length,
        usedBy: uses.get(path) ?? [],
      })),
    )
  },
  'GET /api/documents/find': async ({ query }) =>
    success(findText(await loadDocuments(blog.database), query.text)),
  'GET /api/document': ({ query }) => readDocument(blog, query.path),
  'PUT /api/document': ({ body }) => save(blog, body),
  'POST /api/document/check': async ({ body }) => {
    const problems = await check(blog, body)
    return success({ problems: problems.map((one) => ({ ...one })) })
  },
  'POST /api/changes': async ({ body: { steps, insist } }) => {
    const written = await write(blog, (writing) => applyChanges(writing, steps, blog.publishing(insist)))
    return mapValue(withPurged(written), ({ slugs, ...applied }) => ({
      ...applied,
      addresses: slugs.flatMap(
        ({ kind, current }) => addressFor(blog, kind as SlugKind, current)?.path ?? [],
      ),
    }))
  },
})

const isContent = (path: string) => postSlugOf(path) !== undefined || pagePathOf(path) !== undefined

async function readDocument({ database }: DatabasePort, path: string) {
  const found = isContent(path)
    ? await readStored(database, path)
    : await database.getRepository(DocumentEntity).findOneBy({ path })
  return found
    ? success({ path, text: found.text, version: found.version })
    : unknown({ file: path, ...DOCUMENT_PROBLEMS['document-unknown'](path) })
}

async function save(blog: Ports, { path, text, version, insist }: BodyOf<'PUT /api/document'>) {
  const written = await write(blog, async (writing): Promise<Outcome<{ path: string; version: number }>> => {
    if (isContent(path)) return await saveFile(writing, { path, version }, text)
    const saved = await saveDocuments(writing, [{ path, text, version }], blog.publishing(insist))
    return mapValue(saved, ({ versions }) => ({ path, version: versions[path] ?? version + 1 }))
  })
  return withPurged(written)
}

async function check(
  blog: DatabasePort & SitePort & ClockPort & PublishPort,
  { path, text }: BodyOf<'POST /api/document/check'>,
): Promise<Problem[]> {
  const page = pagePathOf(path)
  if (postSlugOf(path) !== undefined)
    return problemsOf(readPostFile(path, text, blog.clock(), blog.site.definition))
  if (page !== undefined) return problemsOf(readPageFile(page, text))
  const documents = await loadDocuments(blog.database)
  documents.set(path, text)
  return await blog.problemsOf(documents)
}

const problemsOf = (outcome: Outcome<unknown>): Problem[] => (outcome.ok ? [] : outcome.problems)
