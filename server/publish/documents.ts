/** Reads the stored documents of the definition and builds the site from them. */
import type { DataSource } from 'typeorm'
import type { Problem } from '../../core/shapes/problem.ts'
import { DocumentEntity } from '../store/entities/definition.ts'
import { buildSite, type Site } from './site.ts'

export async function loadDocuments(database: DataSource): Promise<Map<string, string>> {
  const rows = await database.getRepository(DocumentEntity).find({ order: { path: 'ASC' } })
  return new Map(rows.map((row) => [row.path, row.text]))
}

export async function loadSite(
  database: DataSource,
): Promise<{ ok: true; site: Site } | { ok: false; problems: Problem[] }> {
  return buildSite(database, await loadDocuments(database))
}
