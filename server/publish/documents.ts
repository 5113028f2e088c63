/** Reads the stored documents of the definition and builds the site from them. */
import type { DataSource } from 'typeorm'
import type { Outcome } from '../../core/shapes/outcome.ts'
import { DocumentEntity } from '../store/entities/definition.ts'
import { buildSite, buildSiteInSlices, versionOf, type Site } from './site.ts'

export async function loadDocuments(database: DataSource): Promise<Map<string, string>> {
  const rows = await database.getRepository(DocumentEntity).find({ order: { path: 'ASC' } })
  return new Map(rows.map((row) => [row.path, row.text]))
}

/** Builds the stored definition at once, for a process that has no readers yet. */
export const loadSite = async (database: DataSource): Promise<Outcome<Site>> =>
  buildSite(database, await loadDocuments(database))

/** Builds the stored definition in slices, unless it has a version already. */
export async function loadOtherSite(
  database: DataSource,
  version: string,
): Promise<Outcome<Site> | undefined> {
  const documents = await loadDocuments(database)
  return versionOf(documents) === version ? undefined : await buildSiteInSlices(database, documents)
}
