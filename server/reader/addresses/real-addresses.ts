/** The existing addresses of each route, derived from its pattern and the values in the database. */
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
  /** The title or name of the row; null for an address without parameters. */
  title: string | null
  /** The row that decides the parameters. */
  row: { source: SourceName; id: number } | null
}

export interface AddressPage {
  addresses: RealAddress[]
  /** The number of all addresses of the route, without further pages of listings. */
  total: number
}

/** What decides a route's parameters: a query, and the fields of its rows. */
export interface Binding {
  query: SiteQuery
  /** The source of the values: that of the query, or of a relation in its condition. */
  source: SourceName
  /** The field of the source for each parameter. */
  fields: Readonly<Record<string, string>>
}

/**
 * Returns the first query of a route whose conditions compare all parameters for equality. Without one, e.g. for a
 * search, the existing addresses cannot be listed.
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

/** Addresses of unpublished posts instead: of all of them, or only of drafts. */
type Hidden = boolean | 'drafts'

/** Returns true if a clause has no parameters. */
const isFixed = (clause: Clause) =>
  fieldConditionsOf([clause]).every(({ to }) =>
    (Array.isArray(to) ? to : [to]).every((one) => parameterOf(one) === undefined),
  )

/** Returns the query for the rows of a binding: those that readers can see, or hidden posts. */
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
 * Returns a page of a route's addresses in order of their rows' ids; undefined if they cannot be listed.
 * @param page 1-based
 * @param hidden whether to list the addresses of drafts and scheduled posts instead
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

/** Returns true if each row has its own address. */
const isUnique = ({ source, fields }: Binding) =>
  Object.values(fields).some((field) => SOURCE[source].fields[field]?.unique === true)

/** Returns addresses that several rows share, such as those of a month: one for each combination of values. */
async function combinationsOf(
  blog: PoolPort & DatabasePort,
  site: Site,
  compiled: CompiledRoute,
  { fields }: Binding,
  meaning: QueryMeaning,
  page: number,
  size: number,
): Promise<AddressPage> {
  const { items, total } = compileDistinct(blog.database, meaning, fields, site.definition)
  const binding = { parameters: {}, limit: size, offset: (page - 1) * size }
  const [rows, counted] = await Promise.all([
    runStatement(blog.pool, 'addresses', items, binding, []),
    runStatement(blog.pool, 'addresses', total, { parameters: {} }, []),
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

/** How many rows are read at a time. */
const BATCH = 1_000

/** Yields all addresses of a route, up to a limit. */
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

/** The number of pages of a listing, with its page parameter. */
export interface ListingPages {
  parameter: string
  pages: number
}

/** Returns the numbers of pages of a route's listings for given parameters. */
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

/** Returns true if a route's query passes the request on to the next route when it finds no row. */
export const passesOn = (site: Site, { route }: CompiledRoute): boolean =>
  queriesOf(route).some((name) => site.queries.get(name)?.meaning.empty === 'next-route')
