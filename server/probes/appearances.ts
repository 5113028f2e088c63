/** Finds where a post appears: all addresses whose queries return it to readers, with its position. */
import { pageCount, withQuery } from '../../core/paging/numbered.ts'
import { parameterOf } from '../../core/queries/clauses.ts'
import { givenMeaning, type QueryMeaning } from '../../core/queries/meaning.ts'
import { buildPath } from '../../core/routing/addresses/build.ts'
import { matchRoute } from '../../core/routing/addresses/match.ts'
import type { CompiledRoute } from '../../core/routing/addresses/compiled-route.ts'
import { readAddress } from '../../core/routing/addresses/address.ts'
import { compilePosition } from '../store/statements/compile-places.ts'
import type { PagePorts } from '../reader/page-request.ts'
import type { PoolPort, SitePort } from '../publish/ports.ts'
import { postValues } from '../store/content/post-values.ts'
import { pageAddress } from '../reader/paged.ts'
import { queryInForce, type SiteQuery } from '../publish/site.ts'
import { runStatement } from '../store/statements/run-query.ts'

export interface Appearance {
  route: string
  path: string
  /** The name of the data in the route's templates, and its query. */
  data: string
  query: string
  /** `itself`: the address is the post's own. */
  how: 'itself' | 'listed'
  /** The 1-based position on the page, and how many the page has room for; 0 and 0 for the post's own address. */
  place: number
  of: number
  /** The number of the page; null if the listing is not paged. */
  page: number | null
}

export interface Appearances {
  found: Appearance[]
  /** Data that depend on other rows, such as related posts. Pages of other posts may show the post with them. */
  beside: { route: string; data: string; query: string }[]
}

/** The values of a post that can decide a parameter, by field. */
type Values = Readonly<Record<string, readonly (string | number)[]>>

/** Returns where a post appears. A post that readers cannot see appears nowhere. */
export async function appearancesOf(
  blog: PagePorts & SitePort,
  slug: string,
): Promise<Appearances | undefined> {
  const { site } = blog
  const post = await valuesOf(blog, slug)
  if (!post) return undefined
  const result: Appearances = { found: [], beside: [] }
  for (const compiled of site.definition.routes) {
    if (compiled.method !== 'GET' || compiled.route.template === undefined) continue
    for (const [data, entry] of Object.entries(compiled.route.data ?? {})) {
      const name = typeof entry === 'string' ? entry : entry.query
      const query = site.queries.get(name)
      if (query?.meaning.from !== 'posts' || query.meaning.countBy.length > 0) continue
      if (typeof entry !== 'string' && Object.keys(entry.with ?? {}).length > 0) {
        result.beside.push({ route: compiled.route.name, data, query: name })
        continue
      }
      // Without a query string, optional conditions are left out. A query that requires one, such as a search, has no
      // fixed address.
      const meaning = givenMeaning(
        query.meaning,
        Object.fromEntries(compiled.pattern.names.map((one) => [one, one])),
      )
      const needed = query.meaning.parameters.filter((one) => !query.meaning.optional.includes(one))
      if (needed.some((one) => !compiled.pattern.names.includes(one))) continue
      for (const parameters of combinations(compiled, meaning, post.values)) {
        const found = await placeOf(
          blog,
          compiled,
          queryInForce(blog.database, site, query, parameters),
          parameters,
          post.id,
        )
        if (found) result.found.push({ route: compiled.route.name, data, query: name, ...found })
      }
    }
  }
  result.found.sort((a, b) => Number(a.how === 'listed') - Number(b.how === 'listed'))
  return result
}

async function valuesOf(
  { pool, site }: PoolPort & SitePort,
  slug: string,
): Promise<{ id: number; values: Values } | undefined> {
  const row = await postValues(pool, slug, site.definition.timeZone)
  if (!row) return undefined
  const one = (value: number | string | null | undefined) =>
    value === null || value === undefined ? [] : [value]
  return {
    id: Number(row['id']),
    values: {
      id: one(row['id']),
      slug: one(row['slug']),
      'category.slug': one(row['category']),
      'within category.slug': row.categories,
      'author.slug': one(row['author']),
      'tags.slug': row.tags,
      publishedYear: one(row['year']),
      publishedMonth: one(row['month']),
      publishedDay: one(row['day']),
    },
  }
}

/** Every choice of the route's parameters for which the query's conditions on them can hold for the post. */
function combinations(
  { pattern }: CompiledRoute,
  { conditions, parameters }: QueryMeaning,
  values: Values,
): Record<string, string | number>[] {
  // A query that reads none of the route's parameters shows the post at any of its addresses, or at none.
  if (pattern.names.length > 0 && !pattern.names.every((name) => parameters.includes(name))) return []
  let found: Record<string, string | number>[] = [{}]
  for (const name of pattern.names) {
    const condition = conditions.find(
      (one) => (one.is === 'equal' || one.is === 'within') && parameterOf(one.to) === name,
    )
    const choices = condition
      ? (values[condition.is === 'within' ? `within ${condition.field}` : condition.field] ?? [])
      : []
    found = found.flatMap((known) => choices.map((value) => ({ ...known, [name]: value })))
  }
  return found
}

async function placeOf(
  blog: PagePorts & SitePort,
  compiled: CompiledRoute,
  query: SiteQuery,
  parameters: Record<string, string | number>,
  post: number,
): Promise<Omit<Appearance, 'route' | 'data' | 'query'> | undefined> {
  const { site, database, pool } = blog
  const built = buildPath(compiled, parameters, site.definition.policy)
  if (!built.ok || !isAnsweredBy(blog, compiled, built.path)) return undefined
  const { meaning } = query
  const statement = compilePosition(database, meaning, site.definition)
  const rows = await runStatement(pool, 'place', statement, { parameters: { ...parameters, row: post } }, [])
  const position = rows[0]?.['position']
  if (typeof position !== 'number') return undefined
  const { take } = meaning
  const path = built.path
  switch (take.kind) {
    case 'one':
      return position === 1 ? { path, how: 'itself', place: 0, of: 0, page: null } : undefined
    case 'first':
      return position <= take.count
        ? { path, how: 'listed', place: position, of: take.count, page: null }
        : undefined
    case 'all':
      return { path, how: 'listed', place: position, of: 0, page: null }
    case 'pages': {
      const page = pageCount(position, take.size)
      const text = await pageAddress({ ports: blog, query, as: 'reader', parameters }, page)
      const at = withQuery(path, new URLSearchParams(), { [take.parameter]: text })
      return { path: at, how: 'listed', place: position - (page - 1) * take.size, of: take.size, page }
    }
  }
}

/** Returns false if an earlier route answers the address. */
function isAnsweredBy(blog: SitePort, { route }: CompiledRoute, path: string): boolean {
  const { table, policy } = blog.site.definition
  const address = readAddress(path, policy)
  const match = address.ok ? matchRoute(table, 'GET', address.path) : undefined
  return match?.outcome === 'matched' && match.route.route.name === route.name
}
