/** Saves the documents of the definition. The definition must be valid with all of them. */
import type { DataSource } from 'typeorm'
import { conflict, refused, success, type Outcome } from '../../../core/shapes/outcome.ts'
import { documentProblems } from '../../../core/shapes/documents.ts'
import type { Publishing } from '../../publish/ports.ts'
import { buildSiteInSlices, type Site } from '../../publish/site.ts'
import { lockTable } from '../../store/content/locks.ts'
import { DocumentEntity } from '../../store/entities/definition.ts'
import { ROW_PROBLEMS } from '../problems.ts'
import type { Writing } from '../writing.ts'

export interface DocumentWrite {
  path: string
  /** null to delete the document. */
  text: string | null
  /** The version that the author has read; 0 for a new document. */
  version: number
}

export interface SavedDocuments {
  /** The version of each saved document. */
  versions: Record<string, number>
}

/** Tries a definition in its thread, and then builds it. Both at once would make readers wait longer. */
export async function tryAndBuild(
  database: DataSource,
  publishing: Publishing,
  documents: ReadonlyMap<string, string>,
  current: ReadonlyMap<string, string>,
): Promise<Outcome<Site>> {
  const found = await publishing.tryOut(documents, current)
  return found.length > 0 ? refused(...found) : await buildSiteInSlices(database, documents)
}

/**
 * Saves documents, all or none. The definition with them is read and compiled first.
 */
export async function saveDocuments(
  { manager, unit }: Pick<Writing, 'manager' | 'unit'>,
  writes: readonly DocumentWrite[],
  publishing: Publishing,
): Promise<Outcome<SavedDocuments>> {
  const problems = writes.flatMap(({ path, text }) => documentProblems(path, text ?? ''))
  if (problems.length > 0) return refused(...problems)
  // One save at a time, each checked against the definition that the one before left.
  await lockTable(manager, 'document')
  const rows = await manager.find(DocumentEntity)
  const documents = new Map(rows.map((row) => [row.path, row.text]))
  for (const { path, text, version } of writes) {
    const existing = rows.find((row) => row.path === path)
    if ((existing?.version ?? 0) !== version)
      return conflict(
        { file: path, ...ROW_PROBLEMS['version-conflict'](path) },
        { document: path, version: existing?.version ?? 0, text: existing?.text ?? '' },
      )
    if (text === null) documents.delete(path)
    else documents.set(path, text)
  }
  const current = new Map(rows.map((row) => [row.path, row.text]))
  const built = await tryAndBuild(manager.connection, publishing, documents, current)
  if (!built.ok) return built
  for (const { path, text, version } of writes) {
    if (text === null) await manager.delete(DocumentEntity, { path })
    else if (version === 0) await manager.insert(DocumentEntity, { path, text })
    else
      await manager.update(DocumentEntity, { path }, { text, version: version + 1, updatedAt: () => 'now()' })
  }
  unit.afterCommit(() => publishing.activate(built.value))
  const saved = writes.filter((one) => one.text !== null)
  return success({ versions: Object.fromEntries(saved.map(({ path, version }) => [path, version + 1])) })
}
