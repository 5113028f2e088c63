/** The words by which readers find posts, in the language of the blog. They are indexed again when it changes. */
import type { DataSource, EntityManager } from 'typeorm'
import { searchConfiguration } from '../../../core/queries/search-language.ts'
import type { DatabasePort, SitePort } from '../../publish/ports.ts'
import { reindexPosts, storeSearchLanguage } from '../../store/content/texts.ts'

/** How many posts are indexed at a time. */
const BATCH = 200

/** Stores the language for rows that are written from now on. @returns whether it changed */
export const setSearchLanguage = (
  database: DataSource | EntityManager,
  language: string | undefined,
): Promise<boolean> => storeSearchLanguage(database, searchConfiguration(language))

/** Indexes all posts again if the language of the blog has changed. @returns how many posts were indexed */
export async function reindexSearch(
  { database, site }: DatabasePort & SitePort,
  signal?: AbortSignal,
): Promise<number> {
  if (!(await setSearchLanguage(database, site.definition.settings.language))) return 0
  let indexed = 0
  for (let last = 0; !signal?.aborted;) {
    const ids = await reindexPosts(database, last, BATCH)
    if (ids.length === 0) break
    indexed += ids.length
    last = Math.max(...ids)
  }
  return indexed
}
