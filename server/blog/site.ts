/** A definition ready to run: read, checked and compiled against the database's schema. Never changed once built. */
import { createHash } from 'node:crypto'
import type { DataSource } from 'typeorm'
import type { Problem } from '../../core/definition/problem.ts'
import { readDefinition, type Definition } from '../../core/definition/read.ts'
import { givenMeaning, readMeaning, type QueryMeaning } from '../../core/queries/meaning.ts'
import { compileQuery, type CompiledQuery, type Visibility } from '../database/compile-query.ts'

export interface SiteQuery {
  name: string
  meaning: QueryMeaning
  compiled: Record<Visibility, CompiledQuery>
}

export interface Site {
  definition: Definition
  /** Changes with any document; part of every fragment's key. */
  version: string
  queries: ReadonlyMap<string, SiteQuery>
  /** The tree of pages shown in the navigation, which templates read as `navigation`. */
  navigation: SiteQuery
  /** Asset name → hash of its contents. */
  assetVersions: ReadonlyMap<string, string>
}

/** Name under which the navigation's query appears in walks. */
export const NAVIGATION = 'navigation'

const hash = (text: string) => createHash('sha256').update(text).digest('hex').slice(0, 12)

export function buildSite(
  database: DataSource,
  documents: ReadonlyMap<string, string>,
): { ok: true; site: Site } | { ok: false; problems: Problem[] } {
  const result = readDefinition(documents)
  if (!result.ok) return result
  const { definition } = result
  const compile = (name: string, meaning: QueryMeaning): SiteQuery => ({
    name,
    meaning,
    compiled: {
      reader: compileQuery(database, meaning, 'reader', definition),
      author: compileQuery(database, meaning, 'author', definition),
    },
  })
  const navigation = readMeaning({
    from: 'pages',
    with: ['parent'],
    where: ['in-navigation'],
    order: ['position', 'id'],
    take: 'all',
  })
  if (!navigation.ok) throw new Error('the navigation query does not compile')
  return {
    ok: true,
    site: {
      definition,
      version: hash(
        [...documents]
          .sort(([a], [b]) => (a < b ? -1 : 1))
          .map((entry) => entry.join('\0'))
          .join('\0'),
      ),
      queries: new Map([...definition.queries].map(([name, meaning]) => [name, compile(name, meaning)])),
      navigation: compile(NAVIGATION, navigation.meaning),
      assetVersions: new Map([...definition.assets].map(([name, text]) => [name, hash(text)])),
    },
  }
}

/** A query as it is for some parameters: conditions that wait for one that is absent fall away. */
export function queryInForce(
  database: DataSource,
  { definition }: Site,
  query: SiteQuery,
  parameters: Readonly<Record<string, unknown>>,
): SiteQuery {
  const meaning = givenMeaning(query.meaning, parameters)
  if (meaning === query.meaning) return query
  const compile = (visibility: Visibility) => compileQuery(database, meaning, visibility, definition)
  return { name: query.name, meaning, compiled: { reader: compile('reader'), author: compile('author') } }
}

/** Address of an asset; changes with its contents, so that browsers may keep it for good. */
export function assetAddress(site: Site, name: string): string | undefined {
  const version = site.assetVersions.get(name)
  return version === undefined ? undefined : `/assets/${name}?v=${version}`
}
