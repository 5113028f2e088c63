/** The addresses that this blog really has, route by route: what the values in its tables make of the patterns. */
import type { FieldCondition, SourceName } from '../../../core/shapes/schemas.ts'
import { pageCount } from '../../../core/paging/numbered.ts'
import { fieldConditionsOf, parameterOf, type Clause } from '../../../core/queries/clauses.ts'
import { readMeaning, type QueryMeaning } from '../../../core/queries/meaning.ts'
import { SOURCE } from '../../../core/queries/sources.ts'
import { queriesOf } from '../../../core/shapes/route-data.ts'
import { buildPath } from '../../../core/routing/addresses/build.ts'
import type { CompiledRoute } from '../../../core/routing/addresses/compiled-route.ts'
import { compileQuery } from '../../store/statements/compile-query.ts'
import { compileDistinct } from '../../store/statements/compile-places.ts'
import type { DatabasePort, PoolPort } from '../../publish/ports.ts'
import { runQuery, runStatement, type Row } from '../../store/statements/run-query.ts'
import type { Site, SiteQuery } from '../../publish/site.ts'

export interface RealAddress {
  path: string
  /** Title or name of the row behind it; null for an address without parameters. */
  title: string | null
  /** The row: what it is from, and its id. */
  row: { source: SourceName; id: number } | null
}

export interface AddressPage {
  addresses: RealAddress[]
  /** All of the route's, pages of listings not counted. */
  total: number
}

/** How a route's parameters are decided: by which query, and by which fields of its rows. */
export interface Binding {
  query: SiteQuery
  /** Where the values come from: the query's own rows, or those of a relation its condition names. */
  source: SourceName
  /** Parameter → field of the source. */
  fields: Readonly<Record<string, string>>
}

/**
 * The first query of a route whose conditions say which values of the parameters lead somewhere; undefined when no
 * query does so by equality (a search, say: then any address may be asked).
 */
export function bindingOf(site: Site, { route, pattern }: CompiledRoute): Binding | undefined {
  for (const name of queriesOf(route)) {
    const query = site.queries.get(name)
    if (!query) continue
    const equal = query.meaning.conditions.filter(
      (one) => one.is === 'equal' && parameterOf(one.to) !== undefined,
    )
    const bound = new Map(equal.map((one) => [parameterOf(one.to) ?? '', one.field]))
    if (!pattern.names.every((one) => bound.has(one))) continue
    const own = pattern.names.map((one) => bound.get(one) ?? '')
    const [first = ''] = own
    if (pattern.names.length === 1 && first.includes('.')) {
      const [relation = '', field = ''] = first.split('.')
      const source = SOURCE[query.meaning.from].relations[relation]?.source
      if (source && source !== 'images') return { query, source, fields: { [pattern.names[0] ?? '']: field } }
    }
    return {
      query,
      source: query.meaning.from,
      fields: Object.fromEntries(pattern.names.map((one, index) => [one, own[index] ?? ''])),
    }
  }
  return undefined
}

/** Addresses that posts would have which readers may not see: all of them, or drafts only. */
type Hidden = boolean | 'drafts'

/** True when nothing of a clause waits for the address. */
const isFixed = (clause: Clause) =>
  fieldConditionsOf([clause]).every(({ to }) =>
    (Array.isArray(to) ? to : [to]).every((one) => parameterOf(one) === undefined),
  )

/** Rows of a binding: those whose addresses lead somewhere, or, hidden, those of posts that readers may not see. */
function rowsMeaning({ query, source, fields }: Binding, hidden: Hidden, size: number): QueryMeaning {
  const own = query.meaning.from === source
  const conditions: FieldCondition[] = own
    ? query.meaning.conditions.filter((one) => parameterOf(one.to) === undefined)
    : []
  const groups = own ? query.meaning.groups.filter((one) => isFixed(one)) : []
  const named = own ? query.meaning.named.filter((one) => !(hidden !== false && one === 'published')) : []
  const relations = Object.values(fields).flatMap((field) =>
    field.includes('.') ? [field.split('.')[0] ?? ''] : [],
  )
  const made = readMeaning({
    from: source,
    with: relations,
    order: ['id'],
    take: 'pages',
    pages: { size: Math.min(size, 100) },
  })
  if (!made.ok) throw new Error(made.problems.map((one) => one.message).join('; '))
  return {
    ...made.meaning,
    named: hidden === false ? named : [...named, hidden === 'drafts' ? 'draft' : 'unpublished'],
    conditions,
    groups,
    take: { kind: 'pages', by: 'number', size, parameter: 'page', pastTheEnd: 'empty', count: 'exact' },
  }
}

/**
 * Some of a route's addresses, in order of their rows' ids.
 * @param page 1-based
 * @param hidden addresses of drafts and scheduled posts instead
 * @returns undefined when they cannot be listed
 */
export async function addressesOf(
  blog: PoolPort & DatabasePort,
  site: Site,
  compiled: CompiledRoute,
  { page = 1, size = 100, hidden = false }: { page?: number; size?: number; hidden?: Hidden } = {},
): Promise<AddressPage | undefined> {
  const { policy } = site.definition
  if (compiled.pattern.names.length === 0) {
    const built = buildPath(compiled, {}, policy)
    const addresses = hidden || !built.ok ? [] : [{ path: built.path, title: null, row: null }]
    return { addresses: page === 1 ? addresses : [], total: addresses.length }
  }
  const binding = bindingOf(site, compiled)
  if (!binding) return undefined
  if (hidden && binding.source !== 'posts') return { addresses: [], total: 0 }
  const meaning = rowsMeaning(binding, hidden, size)
  if (!isUnique(binding)) return await combinationsOf(blog, site, compiled, binding, meaning, page, size)
  const { rows, total } = await runQuery(blog.pool, {
    name: 'addresses',
    meaning,
    compiled: compileQuery(blog.database, meaning, 'reader', site.definition),
    parameters: {},
    page: { number: page },
  })
  const addresses = rows.flatMap((row): RealAddress[] => {
    const values = Object.fromEntries(
      Object.entries(binding.fields).map(([parameter, field]) => [parameter, valueAt(row, field)]),
    )
    const built = buildPath(compiled, values, policy)
    if (!built.ok) return []
    return [{ path: built.path, title: titleOf(row), row: { source: binding.source, id: Number(row['id']) } }]
  })
  return { addresses, total: total ?? 0 }
}

/** True when each row has an address of its own. */
const isUnique = ({ source, fields }: Binding) =>
  Object.values(fields).some((field) => SOURCE[source].fields[field]?.unique === true)

/** Addresses that several rows share, such as those of a month: one for each combination of values. */
async function combinationsOf(
  blog: PoolPort & DatabasePort,
  site: Site,
  compiled: CompiledRoute,
  binding: Binding,
  meaning: QueryMeaning,
  page: number,
  size: number,
): Promise<AddressPage> {
  const { items, total } = compileDistinct(blog.database, meaning, binding.fields, site.definition)
  const parameters = { limit: size }
  const [rows, counted] = await Promise.all([
    runStatement(blog.pool, 'addresses', items, { parameters, offset: (page - 1) * size }, []),
    runStatement(blog.pool, 'addresses', total, { parameters }, []),
  ])
  const addresses = rows.flatMap((values): RealAddress[] => {
    const built = buildPath(compiled, values, site.definition.policy)
    return built.ok ? [{ path: built.path, title: null, row: null }] : []
  })
  return { addresses, total: Number(counted[0]?.['total'] ?? 0) }
}

const valueAt = (row: Row, field: string): unknown =>
  field.split('.').reduce<unknown>((found, key) => (found as Row | null | undefined)?.[key], row)

const titleOf = (row: Row): string | null => {
  const title = row['title'] ?? row['name']
  return typeof title === 'string' ? title : null
}

/** Rows read at a time. */
const BATCH = 1_000

/** All of a route's addresses, up to a limit. */
export async function* everyAddress(
  blog: PoolPort & DatabasePort,
  site: Site,
  compiled: CompiledRoute,
  { hidden = false, limit = Infinity }: { hidden?: boolean; limit?: number } = {},
): AsyncGenerator<RealAddress> {
  let given = 0
  for (let page = 1; ; page++) {
    const found = await addressesOf(blog, site, compiled, { page, size: BATCH, hidden })
    for (const address of found?.addresses ?? []) {
      if (given++ >= limit) return
      yield address
    }
    if (!found || page * BATCH >= found.total) return
  }
}

/** Values for the parameters of a paged query at one address. */
export interface ListingPages {
  /** The page parameter, and how many pages there are. */
  parameter: string
  pages: number
}

/** The numbered pages of a route's listings at an address with the given parameters. */
export async function listingPages(
  blog: PoolPort & DatabasePort,
  site: Site,
  compiled: CompiledRoute,
  parameters: Readonly<Record<string, unknown>>,
): Promise<ListingPages[]> {
  const found: ListingPages[] = []
  for (const name of queriesOf(compiled.route)) {
    const query = site.queries.get(name)
    const take = query?.meaning.take
    if (!query || take?.kind !== 'pages') continue
    if (query.meaning.parameters.some((one) => !Object.hasOwn(parameters, one))) continue
    const { total = 0 } = await runQuery(blog.pool, {
      name,
      meaning: query.meaning,
      compiled: query.compiled.reader,
      parameters,
    })
    found.push({ parameter: take.parameter, pages: pageCount(total, take.size) })
  }
  return found
}

/** True when a route's query lets the next route try where it finds nothing. */
export const passesOn = (site: Site, { route }: CompiledRoute): boolean =>
  queriesOf(route).some((name) => site.queries.get(name)?.meaning.empty === 'next-route')
