/** The definition's documents in the database: read, and saved only when the whole definition stays good. */
import { documentKind, DOCUMENT_LIMIT, unknownName } from '../../../core/shapes/documents.ts'
import type { Problem } from '../../../core/shapes/problem.ts'
import { buildSite, type Site } from '../../publish/site.ts'
import type { Blog } from '../../reader/blog.ts'
import { DocumentEntity } from '../../store/entities/definition.ts'

export type DocumentSave =
  | { outcome: 'saved'; version: number }
  | { outcome: 'problems'; problems: Problem[] }
  | { outcome: 'conflict'; path: string; version: number; text: string }

export interface DocumentWrite {
  path: string
  /** null: the document is taken out. */
  text: string | null
  /** The one the author has read; 0 for a new document. */
  version: number
}

/** Saves one document; see `saveDocuments`. */
export async function saveDocument(
  blog: Blog,
  path: string,
  text: string,
  version: number,
): Promise<DocumentSave> {
  const result = await saveDocuments(blog, [{ path, text, version }])
  return result.outcome === 'saved' ? { outcome: 'saved', version: version + 1 } : result
}

export type DocumentsSave =
  { outcome: 'saved'; versions: Record<string, number> } | Exclude<DocumentSave, { outcome: 'saved' }>

/**
 * Saves documents, all or none. The definition with them is read and compiled first; a faulty one changes nothing.
 */
export async function saveDocuments(blog: Blog, writes: readonly DocumentWrite[]): Promise<DocumentsSave> {
  const problems = writes.flatMap(({ path, text }) => unsuitable(path, text) ?? [])
  if (problems.length > 0) return { outcome: 'problems', problems }
  const result = await blog.database.transaction(
    async (manager): Promise<DocumentsSave & { site?: Site }> => {
      // One save at a time: each is checked against the definition the one before left.
      await manager.query('LOCK TABLE document IN SHARE ROW EXCLUSIVE MODE')
      const rows = await manager.find(DocumentEntity)
      const documents = new Map(rows.map((row) => [row.path, row.text]))
      for (const { path, text, version } of writes) {
        const existing = rows.find((row) => row.path === path)
        if ((existing?.version ?? 0) !== version)
          return { outcome: 'conflict', path, version: existing?.version ?? 0, text: existing?.text ?? '' }
        if (text === null) documents.delete(path)
        else documents.set(path, text)
      }
      const built = buildSite(blog.database, documents)
      if (!built.ok) return { outcome: 'problems', problems: built.problems }
      for (const { path, text, version } of writes) {
        if (text === null) await manager.delete(DocumentEntity, { path })
        else if (version === 0) await manager.insert(DocumentEntity, { path, text })
        else
          await manager.update(
            DocumentEntity,
            { path },
            { text, version: version + 1, updatedAt: new Date() },
          )
      }
      const versions = Object.fromEntries(
        writes.flatMap(({ path, text, version }) => (text === null ? [] : [[path, version + 1]])),
      )
      return { outcome: 'saved', versions, site: built.site }
    },
  )
  const { site, ...outcome } = result
  if (site) blog.replaceSite(site)
  return outcome
}

function unsuitable(path: string, text: string | null): Problem | undefined {
  if (documentKind(path) === undefined) return unknownName(path)
  if (text === null) return undefined
  if (text.length > DOCUMENT_LIMIT)
    return { file: path, message: `the document is longer than ${DOCUMENT_LIMIT} characters` }
  return text.includes('\0') ? { file: path, message: 'the document contains a null character' } : undefined
}
