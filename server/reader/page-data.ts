/** The data of one page in the making: each of the route's queries is asked once, and decides what an empty result means. */
import { dependent } from '../../core/caching/dependence.ts'
import type { DataEntry, Route } from '../../core/shapes/schemas.ts'
import { argumentValue, parameterNames } from '../../core/queries/arguments.ts'
import { parameterOf } from '../../core/queries/clauses.ts'
import type { QueryMeaning } from '../../core/queries/meaning.ts'
import { withPolicySlash } from '../../core/routing/addresses/address.ts'
import type { MatchedParameter } from '../../core/routing/addresses/match.ts'
import { readQueryParameters, type QueryParameter } from '../../core/routing/addresses/query-parameters.ts'
import { RenderData } from '../../core/templates/scope.ts'
import { slugKindOf } from '../store/slugs.ts'
import type { SlugKind } from '../../core/shapes/content-kinds.ts'
import type { Blog } from './blog.ts'
import { askedPage, runPage, type AskedPage } from './paged.ts'
import { QueryFailure, type Row } from '../store/statements/run-query.ts'
import { nearestAddresses } from './addresses/nearest.ts'
import { NAVIGATION, NOT_FOUND, queryInForce, type Site, type SiteQuery } from '../publish/site.ts'
import type { Walk } from './walk/walk.ts'
import { QueryNotes } from './walk/query-notes.ts'

export interface FormState {
  values: { name: string; text: string }
  errors: { name?: string; text?: string }
}

export interface PageRequest {
  blog: Blog
  site: Site
  id: string
  path: string
  query: string
  as: 'reader' | 'author'
  walk: Walk | undefined
  sparing?: boolean
  form?: FormState
}

export interface RouteInForce {
  route: Pick<Route, 'name' | 'path' | 'data' | 'heading' | 'query'>
  parameters: readonly MatchedParameter[]
}

/** A value of the address that named no row: perhaps one had it before. */
export interface MissedSlug {
  kind: SlugKind
  slug: string
  /** The parameter of the address that held it. */
  parameter: string
}

export type Ending =
  | { outcome: 'not-found' | 'next-route'; missed?: MissedSlug }
  /** The same page has another address. */
  | { outcome: 'elsewhere'; to: string }

/** Thrown inside when a result decides that there is no such page at this address. */
export class Ended extends Error {
  constructor(readonly ending: Ending) {
    super(ending.outcome)
  }
}

export const NEAREST = 'nearest'

/** Of several endings, the same one whichever came first. */
const RANK = (ended: Ended) =>
  ended.ending.outcome === 'elsewhere' ? 2 : ended.ending.missed === undefined ? 1 : 0

export class PageData {
  readonly loaded: RenderData
  readonly entries: Readonly<Record<string, DataEntry>>
  /** Declared parameters of the query string. */
  readonly fromQuery: readonly QueryParameter[]
  readonly notes: QueryNotes | undefined
  readonly #page: PageRequest
  readonly #route: RouteInForce
  readonly #fetches: 'read' | 'everything'
  readonly #loading = new Map<string, Promise<void>>()
  /** What the address of this page should say about pages of listings: parameter → its text, null for none. */
  readonly #shownPages = new Map<string, string | null>()

  /** @param fetches what its templates read, or everything */
  constructor(page: PageRequest, route: RouteInForce, fetches: 'read' | 'everything' = 'read') {
    this.#fetches = fetches
    this.#page = page
    this.#route = route
    this.entries = route.route.data ?? {}
    this.fromQuery = readQueryParameters(route.route.query ?? {}, page.query)
    const { walk } = page
    walk?.record.parameters.push(...this.fromQuery.map((one) => ({ ...one, from: 'query' as const })))
    this.notes = walk && new QueryNotes(walk, page.as)
    this.loaded = new RenderData([...Object.keys(this.entries), NAVIGATION, NEAREST])
  }

  /** The path as readers see it, by the address policy. */
  get shownPath(): string {
    return withPolicySlash(this.#page.path, this.#page.site.definition.policy)
  }

  /** Values of the address, by name. */
  get parameters(): Record<string, unknown> {
    return Object.fromEntries(
      [...this.fromQuery, ...this.#route.parameters].map((one) => [one.name, one.value]),
    )
  }

  /** The one address of what is shown: without parameters that nothing here reads, and without those of first pages. */
  get canonical(): string {
    const said = new URLSearchParams()
    const asked = new URLSearchParams(this.#page.query)
    for (const { name, value } of this.fromQuery)
      if (value !== null && asked.has(name)) said.set(name, String(value))
    for (const name of Object.keys(this.entries)) {
      const { take } = this.queryOf(name).meaning
      if (take.kind !== 'pages') continue
      const text = this.#shownPages.get(take.parameter) ?? null
      if (text !== null) said.set(take.parameter, text)
    }
    const query = said.toString()
    return query === '' ? this.shownPath : `${this.shownPath}?${query}`
  }

  /** Names that must be loaded before anything is rendered, since they decide whether the page exists at all. */
  get deciding(): string[] {
    return Object.keys(this.entries).filter((name) => {
      const { take, empty } = this.queryOf(name).meaning
      return empty !== 'allow' || (take.kind === 'pages' && take.pastTheEnd === 'not-found')
    })
  }

  wasAsked(name: string): boolean {
    return this.#loading.has(name)
  }

  queryOf(name: string): SiteQuery {
    const { site } = this.#page
    if (name === NAVIGATION) return site.navigation
    const entry = this.entries[name]
    const query =
      (this.#fetches === 'read' ? site.reading.get(this.#route.route.name)?.get(name) : undefined) ??
      site.queries.get(typeof entry === 'string' ? entry : (entry?.query ?? ''))
    if (!query) throw new Error(`there is no query for “${name}”`)
    return query
  }

  async load(names: readonly string[]): Promise<void> {
    const { walk } = this.#page
    const start = performance.now()
    const settled = await Promise.allSettled(names.map((name) => this.#loadOne(name)))
    if (walk) walk.record.queries.milliseconds += performance.now() - start
    // Whichever was faster, the same request ends in the same way: by a failure, else by the slug that was not found.
    const failures = settled.flatMap((one) => (one.status === 'rejected' ? [one.reason as unknown] : []))
    if (failures.length === 0) return
    const ended = failures.filter((one) => one instanceof Ended)
    throw (
      failures.find((one) => !(one instanceof Ended)) ??
      [0, 1, 2].flatMap((rank) => ended.find((one) => RANK(one) === rank) ?? [])[0] ??
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

  /** What templates of the not-found page see as `nearest`; nothing elsewhere. */
  async #fetchNearest(): Promise<void> {
    const { blog, site, path } = this.#page
    const value = this.#route.route.name === NOT_FOUND ? await nearestAddresses(blog, site, path) : []
    this.loaded.provide(NEAREST, {
      value,
      dependence: {
        tags: new Set(['source:posts', 'source:pages', 'source:categories', 'source:tags', 'source:authors']),
        timed: true,
      },
    })
  }

  async #fetch(name: string): Promise<void> {
    if (name === NEAREST) return await this.#fetchNearest()
    const { blog, site, as } = this.#page
    const declared = this.queryOf(name)
    const parameters = await this.#parametersFor(name)
    // Conditions that wait for a parameter fall away without it.
    const query = queryInForce(blog.database, site, declared, parameters)
    const { meaning } = query
    const asked = this.#askedPage(query, parameters)
    const start = performance.now()
    const { result, shown, address } = await runPage(
      { blog, query, as, parameters, at: { path: this.shownPath, query: this.#page.query } },
      asked,
    ).catch((error: unknown) => {
      if (error instanceof QueryFailure) this.notes?.failed(name, query, error)
      throw error
    })
    this.notes?.ran(name, query, result, performance.now() - start, parameters)
    if (meaning.take.kind === 'pages') {
      this.#shownPages.set(meaning.take.parameter, address)
      this.notes?.pages(meaning.take, result)
    }
    if (result.rows.length === 0 && meaning.empty !== 'allow')
      throw new Ended({ outcome: meaning.empty, ...this.#missed(name, meaning, parameters) })
    const value = name === NAVIGATION ? treeOf(result.rows) : shown
    if (value === undefined) throw new Ended({ outcome: 'not-found' })
    if (typeof value === 'object' && value !== null && meaning.take.kind !== 'one')
      dependent(value, result.dependence)
    this.loaded.provide(name, { value, dependence: result.dependence })
  }

  #askedPage(query: SiteQuery, parameters: Readonly<Record<string, unknown>>): AskedPage | undefined {
    const { blog, query: asked, walk } = this.#page
    const page = askedPage(blog, query, parameters, asked)
    if (!page) return undefined
    if (walk && !walk.record.parameters.some((one) => one.name === page.note.name && one.from === 'query'))
      walk.record.parameters.push({ ...page.note, from: 'query' })
    const elsewhere = page.elsewhere?.(this.shownPath)
    if (elsewhere !== undefined) throw new Ended({ outcome: 'elsewhere', to: elsewhere })
    return page
  }

  /** The slug of the address that a query for one row by its slug did not find. */
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

  async #parametersFor(name: string): Promise<Record<string, unknown>> {
    const parameters = this.parameters
    const fromAddress = new Map(Object.entries(parameters))
    const entry = this.entries[name]
    if (typeof entry !== 'object' || name === NAVIGATION) return parameters
    for (const [parameter, expression] of Object.entries(entry.with ?? {})) {
      const needed = parameterNames(expression).filter((one) => Object.hasOwn(this.entries, one))
      await Promise.all(needed.map((one) => this.#loadOne(one)))
      parameters[parameter] = argumentValue(expression, (one) =>
        needed.includes(one) ? this.loaded.get(one).value : fromAddress.get(one),
      )
    }
    return parameters
  }
}

/** Pages as a tree by their parent; a page whose parent is not in the list stands at the top. */
function treeOf(rows: readonly Row[]): Row[] {
  const nodes = new Map(rows.map((row) => [row['id'], { ...row, children: [] as Row[] }]))
  const top: Row[] = []
  for (const node of nodes.values()) {
    const parent = nodes.get(((node as Row)['parent'] as Row | null)?.['id'])
    if (parent) parent.children.push(node)
    else top.push(node)
  }
  return top
}
