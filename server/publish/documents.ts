/** Reads the stored documents of the definition and builds the site from them. */
import type { DataSource } from 'typeorm'
import type { Outcome } from '../../core/shapes/outcome.ts'
import { DocumentEntity } from '../store/entities/definition.ts'
import { buildSiteInSlices, type Site } from './site.ts'

export async function loadDocuments(database: DataSource): Promise<Map<string, string>> {
  const rows = await database.getRepository(DocumentEntity).find({ order: { path: 'ASC' } })
  return new Map(rows.map((row) => [row.path, row.text]))
}

export const loadSite = async (database: DataSource): Promise<Outcome<Site>> =>
  await buildSiteInSlices(database, await loadDocuments(database))
