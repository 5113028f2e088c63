/** Real addresses that look like one that leads nowhere. */
import { buildPath } from '../../../core/routing/addresses/build.ts'
import { mostAlike } from '../../../core/routing/addresses/nearest.ts'
import { slugKindOf, SLUG_TABLE } from '../../store/slugs.ts'
import type { PoolPort } from '../../publish/ports.ts'
import { bindingOf } from './real-addresses.ts'
import type { Site } from '../../publish/site.ts'

export interface NearAddress {
  path: string
  /** What is there; null where the address has no parameters. */
  title: string | null
}

/** Rows asked of the database for each route; it finds them by an index on their trigrams. */
const CANDIDATES = 5
/** Longest text compared, in characters. */
const COMPARED = 200

/**
 * @param path canonical path that nothing answers
 * @returns at most `count`, best first; none when nothing is alike
 */
export async function nearestAddresses(
  { pool }: PoolPort,
  site: Site,
  path: string,
  count = 3,
): Promise<NearAddress[]> {
  const wanted = decoded(path).slice(0, COMPARED)
  const last = wanted.split('/').at(-1) ?? ''
  const found: NearAddress[] = []
  for (const compiled of site.definition.routes) {
    if (compiled.method !== 'GET' || compiled.route.redirect) continue
    if (compiled.pattern.names.length === 0) {
      const built = buildPath(compiled, {}, site.definition.policy)
      if (built.ok) found.push({ path: built.path, title: null })
      continue
    }
    const binding = bindingOf(site, compiled)
    const [parameter, ...more] = compiled.pattern.names
    const field = parameter === undefined ? undefined : binding?.fields[parameter]
    const kind = binding && field !== undefined ? slugKindOf(binding.source, field) : undefined
    if (!kind || parameter === undefined || more.length > 0) continue
    const { column, title, visible } = SLUG_TABLE[kind]
    const { rows } = await pool.query<{ slug: string; title: string }>({
      name: `nearest ${kind}`,
      text: `SELECT owner.${column} AS slug, owner.${title} AS title FROM ${kind} owner
        WHERE ${visible} AND owner.${column} % $1 ORDER BY similarity(owner.${column}, $1) DESC, owner.id LIMIT ${CANDIDATES}`,
      values: [kind === 'page' ? wanted.replace(/^\//, '') : last],
    })
    for (const row of rows) {
      const built = buildPath(compiled, { [parameter]: row.slug }, site.definition.policy)
      if (built.ok) found.push({ path: built.path, title: row.title })
    }
  }
  return mostAlike(wanted, found, count)
}

function decoded(path: string): string {
  try {
    return decodeURIComponent(path).replaceAll('\0', '')
  } catch {
    return path
  }
}
