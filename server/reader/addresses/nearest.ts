/** Finds existing addresses that are similar to one that is not found. */
import { buildPath } from '../../../core/routing/addresses/build.ts'
import { mostSimilar } from '../../../core/routing/addresses/nearest.ts'
import { rowsWithSimilarSlug, slugKindOf } from '../../store/content/slugs.ts'
import type { PoolPort } from '../../publish/ports.ts'
import { bindingOf } from './real-addresses.ts'
import type { Site } from '../../publish/site.ts'

export interface NearAddress {
  path: string
  /** The title of the row, of the route's heading, or the route's name. */
  title: string
}

/** How many rows are queried for each route. An index on trigrams finds them. */
const CANDIDATES = 5
/** The maximum length of a compared path, in characters. */
const COMPARED_LENGTH = 200

/**
 * Returns at most `count` similar addresses, the most similar first.
 * @param path a canonical path that is not found
 */
export async function nearestAddresses(
  { pool }: PoolPort,
  site: Site,
  path: string,
  count = 3,
): Promise<NearAddress[]> {
  const wanted = decoded(path).slice(0, COMPARED_LENGTH)
  const last = wanted.split('/').at(-1) ?? ''
  const found: NearAddress[] = []
  for (const compiled of site.definition.routes) {
    // Feeds and sitemaps are for programs.
    if (compiled.route.template === undefined) continue
    if (compiled.pattern.names.length === 0) {
      const built = buildPath(compiled, {}, site.definition.policy)
      const { heading, name } = compiled.route
      if (built.ok) found.push({ path: built.path, title: heading ?? name })
      continue
    }
    const binding = bindingOf(site, compiled)
    const [parameter, ...more] = compiled.pattern.names
    const field = parameter === undefined ? undefined : binding?.fields[parameter]
    const kind = binding && field !== undefined ? slugKindOf(binding.source, field) : undefined
    if (!kind || parameter === undefined || more.length > 0) continue
    const text = kind === 'page' ? wanted.replace(/^\//, '') : last
    const rows = await rowsWithSimilarSlug(pool, kind, text, CANDIDATES)
    for (const row of rows) {
      const built = buildPath(compiled, { [parameter]: row.slug }, site.definition.policy)
      if (built.ok) found.push({ path: built.path, title: row.title })
    }
  }
  return mostSimilar(wanted, found, count)
}

function decoded(path: string): string {
  try {
    return decodeURIComponent(path).replaceAll('\0', '')
  } catch {
    return path
  }
}
