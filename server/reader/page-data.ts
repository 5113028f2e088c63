/** The data of a page while it is built. Each query of the route runs at most once, and decides what no rows mean. */
import type { PageRequest, RouteInForce, MissedSlug, Ending } from './page-request.ts'
import {
  anySet,
  boundOf,
  boundText,
  type Dependence,
  type DependedSet,
} from '../../core/caching/dependence.ts'
import { isNamed, reachable, withProvenance, type NamedFields } from '../../core/caching/provenance.ts'
import { argumentValue, parameterNames } from '../../core/queries/arguments.ts'
import { parameterOf } from '../../core/queries/clauses.ts'
import type { QueryMeaning } from '../../core/queries/meaning.ts'
import { SOURCE } from '../../core/queries/sources.ts'
import { readQueryParameters, type QueryParameter } from '../../core/routing/addresses/query-parameters.ts'
import type { DataEntry, SourceName } from '../../core/shapes/schemas.ts'
import { RenderData } from '../../core/templates/scope.ts'
import { loadForm } from './comments/form.ts'
import { NAVIGATION, NOT_FOUND, queryInForce, type SiteQuery } from '../publish/site.ts'
import { slugKindOf } from '../store/content/slugs.ts'
import { QueryFailure, type Row } from '../store/statements/run-query.ts'
import { nearestAddresses } from './addresses/nearest.ts'
import { requestedPage, runPage, type RequestedPage } from './paged.ts'
import { noPlaces, PLACEHOLDER, REMEMBERED_PLACES, type Place, type PlaceCounts } from './pages/places.ts'

/** Thrown when a result decides that there is no page at this address. */
export class Ended extends Error {
  constructor(readonly ending: Ending) {
    super(ending.outcome)
  }
}

/** The name under which templates of the 404 page read similar addresses. */
export const NEAREST = 'nearest'

/** The name under which templates read the comment form. */
export const FORM = 'form'

/** Everything that decides which addresses exist. */
export const ALL_ADDRESSES: Dependence = {
  rows: new Map(),
  sets: new Map<string, DependedSet>((Object.keys(SOURCE) as SourceName[]).map(anySet)),
  timed: true,
}

/** Ranks endings, so that the same one wins whichever came first. */
const rankOf = ({ ending }: Ended) =>
  ending.outcome === 'elsewhere' ? 2 : ending.missed === undefined ? 1 : 0

export class PageData {
  readonly loaded: RenderData
  readonly entries: Readonly<Record<string, DataEntry>>
  /** The declared parameters of the query string. */
  readonly fromQuery: readonly QueryParameter[]
  /** The values of the address, by name. */
  readonly parameters: Readonly<Record<string, unknown>>
  readonly #page: PageRequest
  readonly #route: RouteInForce
  readonly #fetches: 'read' | 'everything'
  readonly #forAll: boolean
  readonly #loading = new Map<string, Promise<void>>()
  /** The text of each page parameter in the canonical address; null for none. */
  readonly #shownPages = new Map<string, string | null>()
  /** Whether a part of the page is missing because it would have taken too long. Nothing of it is kept. */
  isUnstable = false
  /** Whether the address names what does not exist, of which there is any number. No copy of the page is kept. */
  isMadeUp = false
  /** The browser to make known, because the page has a form for it. */
  newWriter: string | undefined
  /** When the form closes by itself, in milliseconds. */
  formUntil = Infinity
  /** The post of the form; null without one. */
  formOf: number | null = null
  /** How often each placeholder was read. */
  placeReads: PlaceCounts = noPlaces()

  /**
   * @param fetches the fields that the page's templates read, or all of them
   * @param forAll whether the page is rendered for all readers, with placeholders for what differs between them
   */
  constructor(
    page: PageRequest,
    route: RouteInForce,
    { fetches = 'read', forAll = false }: { fetches?: 'read' | 'everything'; forAll?: boolean } = {},
  ) {
    this.#fetches = fetches
    this.#forAll = forAll
    this.#page = page
    this.#route = route
    this.entries = route.route.data ?? {}
    this.fromQuery = readQueryParameters(route.route.query ?? {}, page.search)
    this.parameters = Object.fromEntries(
      [...this.fromQuery, ...route.parameters].map((one) => [one.name, one.value]),
    )
    page.tracer.queryParameters(this.fromQuery)
    this.loaded = new RenderData([...Object.keys(this.entries), NAVIGATION, NEAREST, FORM], (name, named) =>
      this.#identity(name, named),
    )
  }

  /** The canonical address: without parameters that nothing reads and without those of first pages. */
  get canonical(): string {
    const { search, shownPath } = this.#page
    const canonical = new URLSearchParams()
    for (const { name, value } of this.fromQuery)
      if (value !== null && search.has(name)) canonical.set(name, String(value))
    for (const name of Object.keys(this.entries)) {
      const { take } = this.queryOf(name).meaning
      if (take.kind !== 'pages') continue
      const text = this.#shownPages.get(take.parameter) ?? null
      if (text !== null) canonical.set(take.parameter, text)
    }
    const query = canonical.toString()
    return query === '' ? shownPath : `${shownPath}?${query}`
  }

  /** The names to load before rendering, because they decide whether the page exists. */
  get deciding(): string[] {
    return Object.keys(this.entries).filter((name) => {
      const { take, empty } = this.queryOf(name).meaning
      return empty !== 'allow' || (take.kind === 'pages' && take.pastTheEnd === 'not-found')
    })
  }

  wasRun(name: string): boolean {
    return this.#loading.has(name)
  }

  queryOf(name: string): SiteQuery {
    const { site } = this.#page
    if (name === NAVIGATION) return site.navigation
    const entry = this.entries[name]
    const query =
      (this.#fetches === 'read' ? site.reading.get(this.#route.route.name)?.get(name) : undefined) ??
      site.queries.get(typeof entry === 'string' ? entry : (entry?.query ?? ''))
    if (!query) throw new Error(`There is no query for “${name}”.`)
    return query
  }

  async load(names: readonly string[]): Promise<void> {
    const start = performance.now()
    const settled = await Promise.allSettled(names.map((name) => this.#loadOne(name)))
    this.#page.tracer.queriesTook(performance.now() - start)
    const failures = settled.flatMap((one) => (one.status === 'rejected' ? [one.reason as unknown] : []))
    if (failures.length === 0) return
    // Whichever query was faster, the request ends in the same way: with a failure, or with the slug that was not found.
    const ended = failures.filter((one) => one instanceof Ended)
    throw (
      failures.find((one) => !(one instanceof Ended)) ??
      [0, 1, 2].flatMap((rank) => ended.find((one) => rankOf(one) === rank) ?? [])[0] ??
      failures[0]
    )
  }

  #loadOne(name: string): Promise<void> {
    const known = this.#loading.get(name)
    if (known) return known
    const loading = this.#fetch(name)
    this.#loading.set(name, loading)
    return loading
  }

  /** Loads what templates of the 404 page read as `nearest`. Other pages have none. */
  async #fetchNearest(): Promise<void> {
    const { ports, site, path } = this.#page
    const value = this.#route.route.name === NOT_FOUND ? await nearestAddresses(ports, site, path) : []
    this.loaded.provide(NEAREST, { value, dependence: ALL_ADDRESSES })
  }

  /** Loads the form of the page's post, for the reader who requests it. */
  async #fetchForm(): Promise<void> {
    const { ports, site, request, search, form } = this.#page
    if (Object.hasOwn(this.entries, 'post')) await this.#loadOne('post')
    const post = Object.hasOwn(this.entries, 'post') ? this.loaded.get('post').value : null
    const id = typeof post === 'object' && post !== null ? (post as Row)['id'] : undefined
    const { isNew, writer, until, value, dependence } = await loadForm(ports, {
      request,
      site,
      route: this.#route.route.name,
      search,
      post: typeof id === 'number' ? id : undefined,
      state: form,
      forAll: this.#forAll,
    })
    if (isNew) this.newWriter = writer
    this.formUntil = until
    this.formOf = id === undefined ? null : Number(id)
    const provided = this.#forAll ? { ...value, values: { ...value.values } } : value
    if (this.#forAll) {
      this.#usePlaceholder(provided, 'token')
      for (const one of REMEMBERED_PLACES)
        if (value.values[one] !== '') this.#usePlaceholder(provided.values, one)
    }
    this.loaded.provide(FORM, { value: provided, dependence })
  }

  /** Replaces a value with its placeholder, and counts how often it is read. */
  #usePlaceholder(of: object, place: Place): void {
    Object.defineProperty(of, place, {
      enumerable: true,
      get: () => {
        this.placeReads[place]++
        return PLACEHOLDER[place]
      },
    })
  }

  /**
   * Identifies data without loading it: the query, the values that it binds, the page, and the fetched fields that a
   * template can reach. With them, a copy of what shows the data is right until the data changes.
   * @throws DataNeeded for data from which it takes values
   */
  #identity(name: string, named: NamedFields): string {
    const { site, path, shownPath, search } = this.#page
    // Which addresses are near depends on routes and their queries.
    if (name === NEAREST) return `nearest(${JSON.stringify(path)})#${site.version}`
    const query = this.queryOf(name)
    const { meaning, compiled } = query
    const { take } = meaning
    const parts = [
      `${query.name}(${boundText(boundOf(meaning, this.#boundNow(name)))})`,
      `#${compiled.reader.state}`,
      `/${reachable(compiled.reader.fields, named)}`,
    ]
    if (take.kind === 'pages') {
      parts.push(` ${take.parameter}=${JSON.stringify(search.get(take.parameter) ?? '')}`)
      // The links to other pages keep the address and its other parameters.
      if (isNamed(named, 'url')) parts.push(` at ${JSON.stringify(`${shownPath}?${search.toString()}`)}`)
    }
    return parts.join('')
  }

  /** Returns the values that a query binds, as far as they are known without waiting. */
  #boundNow(name: string): Readonly<Record<string, unknown>> {
    const entry = this.entries[name]
    if (typeof entry !== 'object' || name === NAVIGATION) return this.parameters
    const parameters = { ...this.parameters }
    for (const [parameter, expression] of Object.entries(entry.with ?? {}))
      parameters[parameter] = argumentValue(expression, (one) =>
        Object.hasOwn(this.entries, one) ? this.loaded.get(one).value : this.parameters[one],
      )
    return parameters
  }

  async #fetch(name: string): Promise<void> {
    if (name === NEAREST) return await this.#fetchNearest()
    if (name === FORM) return await this.#fetchForm()
    const { ports, site, request, shownPath, search, tracer } = this.#page
    const { as } = request
    const parameters = await this.parametersFor(name)
    const query = queryInForce(ports.database, site, this.queryOf(name), parameters)
    const { meaning } = query
    const requested = this.#requestedPage(query, parameters)
    const start = performance.now()
    const {
      result,
      shown,
      address,
      isTooBroad = false,
      isBeyond = false,
    } = await runPage({ ports, query, as, parameters, at: { path: shownPath, search } }, requested).catch(
      (error: unknown) => {
        if (error instanceof QueryFailure) tracer.queryFailed(name, query, error)
        throw error
      },
    )
    this.isUnstable ||= isTooBroad
    this.isMadeUp ||=
      isBeyond ||
      requested?.parameter.isInvalid === true ||
      (result.rows.length === 0 && meaning.parameters.some((one) => this.#isFilter(one)))
    tracer.queryRan({ name, query, as, parameters, result, milliseconds: performance.now() - start })
    if (meaning.take.kind === 'pages') {
      this.#shownPages.set(meaning.take.parameter, address)
      tracer.pagesCounted(meaning.take, result)
    }
    if (result.rows.length === 0 && meaning.empty !== 'allow')
      throw new Ended({ outcome: meaning.empty, ...this.#missed(name, meaning, parameters) })
    const { dependence } = result
    const value = name === NAVIGATION ? treeOf(result.rows, dependence) : shown
    if (value === undefined) throw new Ended({ outcome: 'not-found' })
    if (typeof value === 'object' && value !== null && meaning.take.kind !== 'one') {
      withProvenance(value, { key: (named) => this.#identity(name, named), dependence })
      // The rows of a page, apart from the page.
      if ('items' in value && Array.isArray(value.items))
        withProvenance(value.items, { key: (named) => `${this.#identity(name, named)}.items`, dependence })
    }
    this.loaded.provide(name, { value, dependence })
  }

  /** Whether a parameter of the query string was sent, which can be any value. */
  #isFilter(parameter: string): boolean {
    const { query = {} } = this.#route.route
    return Object.hasOwn(query, parameter) && (this.#page.search.get(parameter) ?? '') !== ''
  }

  #requestedPage(query: SiteQuery, parameters: Readonly<Record<string, unknown>>): RequestedPage | undefined {
    const { ports, search, shownPath, tracer } = this.#page
    const page = requestedPage(ports, query, parameters, search)
    if (!page) return undefined
    tracer.pageParameter(page.parameter)
    const elsewhere = page.canonical?.(shownPath)
    if (elsewhere !== undefined) throw new Ended({ outcome: 'elsewhere', to: elsewhere })
    return page
  }

  /** Returns the slug of the address for which a query for one row by its slug found nothing. */
  #missed(
    name: string,
    { from, byUnique, conditions }: QueryMeaning,
    parameters: Readonly<Record<string, unknown>>,
  ): { missed: MissedSlug } | object {
    if (!byUnique || typeof this.entries[name] !== 'string') return {}
    for (const { field, is, to } of conditions) {
      const parameter = parameterOf(to)
      const kind = is === 'equal' ? slugKindOf(from, field) : undefined
      const slug = parameter === undefined ? undefined : parameters[parameter]
      if (kind && parameter !== undefined && typeof slug === 'string')
        return { missed: { kind, slug, parameter } }
    }
    return {}
  }

  /** Returns the values that a query receives, and loads what they are taken from. */
  async parametersFor(name: string): Promise<Readonly<Record<string, unknown>>> {
    const entry = this.entries[name]
    if (typeof entry !== 'object' || name === NAVIGATION) return this.parameters
    const parameters = { ...this.parameters }
    for (const [parameter, expression] of Object.entries(entry.with ?? {})) {
      const needed = parameterNames(expression).filter((one) => Object.hasOwn(this.entries, one))
      await Promise.all(needed.map((one) => this.#loadOne(one)))
      parameters[parameter] = argumentValue(expression, (one) =>
        needed.includes(one) ? this.loaded.get(one).value : this.parameters[one],
      )
    }
    return parameters
  }
}

/**
 * Arranges pages as a tree. A page whose parent is not among them is at the top.
 * @param dependence of the whole tree, and so of each page, which leads to those below it
 */
function treeOf(rows: readonly Row[], dependence: Dependence): Row[] {
  const node = (row: Row) =>
    withProvenance(
      { ...row, children: [] as Row[] },
      { key: () => `navigation:${String(row['id'])}`, dependence },
    )
  const nodes = new Map(rows.map((row) => [row['id'], node(row)]))
  const top: Row[] = []
  for (const node of nodes.values()) {
    const parent = nodes.get(((node as Row)['parent'] as Row | null)?.['id'])
    if (parent) parent.children.push(node)
    else top.push(node)
  }
  return top
}
