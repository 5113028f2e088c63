/** What threads that run definitions share: a connection of their own, and the latest definitions that they have built. */
import type { DataSource } from 'typeorm'
import type { Outcome } from '../../core/shapes/outcome.ts'
import { makeDataSource } from '../store/connection.ts'
import { buildSite, type Site } from './site.ts'

let opened: { url: string; database: Promise<DataSource> } | undefined

/** Returns a connection of the thread's own: what readers use is not shared with it. */
export async function databaseAt(url: string): Promise<DataSource> {
  if (opened?.url !== url) {
    void opened?.database.then((one) => one.destroy()).catch(() => undefined)
    opened = { url, database: makeDataSource(url, { connections: 2 }).initialize() }
  }
  try {
    return await opened.database
  } catch (error) {
    opened = undefined
    throw error
  }
}

/** The latest definitions: the one in force is that of the save before. */
const sites: { documents: string; site: Outcome<Site> }[] = []
const KEPT = 3

/** Builds a definition, unless it is one of the latest. */
export function siteOf(database: DataSource, documents: ReadonlyMap<string, string>): Outcome<Site> {
  const key = JSON.stringify([...documents].sort(([a], [b]) => (a < b ? -1 : 1)))
  const known = sites.find((one) => one.documents === key)
  if (known) return known.site
  const site = buildSite(database, documents)
  sites.unshift({ documents: key, site })
  sites.length = Math.min(sites.length, KEPT)
  return site
}
