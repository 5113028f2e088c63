/** One page in the making: loads the route's data, renders its template, and decides what an empty result means. */

import { dependent } from '../../core/caching/dependence.ts'
import { FragmentSession, type FragmentOutcome } from '../../core/caching/session.ts'
import { shorten } from '../../core/content/text.ts'
import { queryPath } from '../../core/definition/documents.ts'
import type { DataEntry, Route } from '../../core/definition/schemas.ts'
import { numberedPage, pageCount, readPage, withQuery } from '../../core/paging/numbered.ts'
import { argumentValue, parameterNames } from '../../core/queries/arguments.ts'
import { parameterOf } from '../../core/queries/clauses.ts'
import type { QueryMeaning } from '../../core/queries/meaning.ts'
import { describeQuery } from '../../core/queries/describe.ts'
import { withPolicySlash } from '../../core/routing/address.ts'
import type { MatchedParameter } from '../../core/routing/match.ts'
import { readQueryParameters, type QueryParameter } from '../../core/routing/query-parameters.ts'
import { DataNeeded, RenderData } from '../../core/templates/scope.ts'
import { liftsPublished } from '../database/compile-query.ts'
import { slugKindOf, type SlugKind } from '../content/slugs.ts'
import type { Blog } from './blog.ts'
import { QueryFailure, runQuery, type QueryResult, type Row, type StatementRun } from './run-query.ts'
import { nearestAddresses } from './nearest.ts'
import { assetAddress, NAVIGATION, queryInForce, type Site, type SiteQuery } from './site.ts'
import type { Walk } from './walk.ts'
import type { WalkQuery } from './walk-record.ts'

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

type Ending = { outcome: 'not-found' | 'next-route'; missed?: MissedSlug }
export type PageResult = { outcome: 'page'; html: string } | Ending

/** Thrown inside when a result decides that this page does not exist. */
class Ended extends Error {
  constructor(readonly ending: Ending) {
    super(ending.outcome)
  }
}

/** Name of the not-found page's route. */
export const NOT_FOUND = 'not-found'
const NEAREST = 'nearest'

/** Renderings of one page at most; each new one was caused by data that the one before asked for. */
const ROUNDS = 25

export class PageRendering {
  readonly #page: PageRequest
  readonly #route: RouteInForce
  readonly #data: RenderData
  readonly #entries: Readonly<Record<string, DataEntry>>
  readonly #loading = new Map<string, Promise<void>>()
  readonly #session: FragmentSession
  #late: string | null = null
  /** Declared parameters of the query string. */
  readonly #fromQuery: readonly QueryParameter[]

  constructor(page: PageRequest, route: RouteInForce) {
    this.#page = page
    this.#route = route
    this.#entries = route.route.data ?? {}
    this.#fromQuery = readQueryParameters(route.route.query ?? {}, page.query)
    page.walk?.record.parameters.push(...this.#fromQuery.map((one) => ({ ...one, from: 'query' as const })))
    this.#data = new RenderData([...Object.keys(this.#entries), NAVIGATION, NEAREST])
    const { blog, site } = page
    this.#session = new FragmentSession(
      this.#bypasses ? undefined : blog.fragments,
      site.version,
      blog.clock().getTime(),
    )
  }

  /** Nothing is taken from the store or put there: an author may see what readers must not. */
  get #bypasses(): boolean {
    return this.#page.as === 'author' || !this.#page.blog.keepsFragments
  }

  /** The path as readers see it, by the address policy. */
  get #shownPath(): string {
    return withPolicySlash(this.#page.path, this.#page.site.definition.policy)
  }

  get fragments(): readonly FragmentOutcome[] {
    return this.#session.outcomes
  }

  /** The value of one name of the route's data: what an action needs to know. */
  async value(name: string): Promise<{ outcome: 'value'; value: unknown } | Ending> {
    try {
      await this.#load([name])
      const { value } = this.#data.get(name)
      return value === null ? { outcome: 'not-found' } : { outcome: 'value', value }
    } catch (error) {
      if (error instanceof Ended) return error.ending
      throw error
    }
  }

  async run(template: string): Promise<PageResult> {
    const { site, walk } = this.#page
    const { all, eager } = site.definition.templates.reads(template)
    try {
      // First what decides whether the page exists at all, then what it reads outside kept parts.
      await this.#load(Object.keys(this.#entries).filter((name) => this.#decides(name)))
      await this.#load(this.#firstNeeded(this.#bypasses ? all : eager))
      const html = await this.#render(template)
      if (walk) this.#finishNotes(walk, all)
      return { outcome: 'page', html }
    } catch (error) {
      if (error instanceof Ended) return error.ending
      if (walk) this.#finishNotes(walk, all, 'not run: the request failed before it was needed')
      throw error
    }
  }

  #firstNeeded(read: ReadonlySet<string>): string[] {
    return [...Object.keys(this.#entries), NAVIGATION, NEAREST].filter((name) => read.has(name))
  }

  #decides(name: string): boolean {
    const { take, empty } = this.#queryOf(name).meaning
    return empty !== 'allow' || (take.kind === 'pages' && take.pastTheEnd === 'not-found')
  }

  #queryOf(name: string): SiteQuery {
    const { site } = this.#page
    if (name === NAVIGATION) return site.navigation
    const entry = this.#entries[name]
    const query = site.queries.get(typeof entry === 'string' ? entry : (entry?.query ?? ''))
    if (!query) throw new Error(`there is no query for “${name}”`)
    return query
  }

  async #load(names: readonly string[]): Promise<void> {
    const { walk } = this.#page
    const start = performance.now()
    const settled = await Promise.allSettled(names.map((name) => this.#loadOne(name)))
    if (walk) walk.record.queries.milliseconds += performance.now() - start
    // Whichever was faster, the same request ends in the same way: by a failure, else by the slug that was not found.
    const failures = settled.flatMap((one) => (one.status === 'rejected' ? [one.reason as unknown] : []))
    if (failures.length === 0) return
    throw (
      failures.find((one) => !(one instanceof Ended)) ??
      failures.find((one) => one instanceof Ended && one.ending.missed) ??
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
    this.#data.provide(NEAREST, {
      value,
      dependence: {
        tags: new Set(['source:posts', 'source:pages', 'source:categories', 'source:tags', 'source:authors']),
        timed: true,
      },
    })
  }

  async #fetch(name: string): Promise<void> {
    if (name === NEAREST) return await this.#fetchNearest()
    const { blog, site, as, walk } = this.#page
    const declared = this.#queryOf(name)
    const parameters = await this.#parametersFor(name)
    // Conditions that wait for a parameter fall away without it.
    const query = queryInForce(blog.database, site, declared, parameters)
    const { meaning } = query
    const page = meaning.take.kind === 'pages' ? this.#readPage(meaning.take.parameter) : undefined
    const run = (at: number | undefined) =>
      runQuery(blog.pool, {
        name: query.name,
        meaning,
        compiled: query.compiled[as],
        parameters,
        ...(at === undefined ? {} : { page: at }),
      })
    const start = performance.now()
    let result = await run(page).catch((error: unknown) => {
      if (walk && error instanceof QueryFailure) this.#noteFailed(walk, name, query, error)
      throw error
    })
    let shownPage = page ?? 1
    if (
      meaning.take.kind === 'pages' &&
      meaning.take.pastTheEnd === 'last' &&
      result.rows.length === 0 &&
      (result.total ?? 0) > 0
    ) {
      shownPage = pageCount(result.total ?? 0, meaning.take.size)
      const again = await run(shownPage)
      result = { ...again, statements: [...result.statements, ...again.statements] }
    }
    if (walk) this.#note(walk, name, query, result, performance.now() - start, parameters)
    if (result.rows.length === 0 && meaning.empty !== 'allow')
      throw new Ended({ outcome: meaning.empty, ...this.#missed(name, meaning, parameters) })
    const value = this.#shape(name, query, result, shownPage)
    if (typeof value === 'object' && value !== null && meaning.take.kind !== 'one')
      dependent(value, result.dependence)
    this.#data.provide(name, { value, dependence: result.dependence })
  }

  /** The slug of the address that a query for one row by its slug did not find. */
  #missed(
    name: string,
    { from, byUnique, conditions }: QueryMeaning,
    parameters: Readonly<Record<string, unknown>>,
  ): { missed: MissedSlug } | object {
    if (!byUnique || typeof this.#entries[name] !== 'string') return {}
    for (const { field, is, to } of conditions) {
      const parameter = parameterOf(to)
      const kind = is === 'equal' ? slugKindOf(from, field) : undefined
      const slug = parameter === undefined ? undefined : parameters[parameter]
      if (kind && parameter !== undefined && typeof slug === 'string')
        return { missed: { kind, slug, parameter } }
    }
    return {}
  }

  /** What templates see: a row or null, a list, a paged result, or the navigation's tree. */
  #shape(
    name: string,
    { meaning }: SiteQuery,
    { rows, total, dependence }: QueryResult,
    page: number,
  ): unknown {
    const { query } = this.#page
    const path = this.#shownPath
    if (name === NAVIGATION) return treeOf(rows)
    switch (meaning.take.kind) {
      case 'one':
        return rows[0] ?? null
      case 'first':
      case 'all':
        return rows
      case 'pages': {
        const { size, parameter, pastTheEnd } = meaning.take
        dependent(rows, dependence)
        if (rows.length === 0 && page > 1 && pastTheEnd === 'not-found')
          throw new Ended({ outcome: 'not-found' })
        this.#notePageCount(parameter, pageCount(total ?? 0, size))
        return numberedPage(rows, total ?? 0, size, page, (number) =>
          withQuery(path, query, { [parameter]: number === 1 ? null : String(number) }),
        )
      }
    }
  }

  #notePageCount(parameter: string, count: number): void {
    const noted = this.#page.walk?.record.parameters.find(
      (one) => one.name === parameter && one.from === 'query',
    )
    if (noted) noted.note = noted.note === null ? `of ${count}` : `${noted.note}; there are ${count}`
  }

  async #parametersFor(name: string): Promise<Record<string, unknown>> {
    const fromAddress = new Map<string, unknown>(
      [...this.#fromQuery, ...this.#route.parameters].map((one) => [one.name, one.value]),
    )
    const parameters: Record<string, unknown> = Object.fromEntries(fromAddress)
    const entry = this.#entries[name]
    if (typeof entry !== 'object' || name === NAVIGATION) return parameters
    for (const [parameter, expression] of Object.entries(entry.with ?? {})) {
      const needed = parameterNames(expression).filter((one) => Object.hasOwn(this.#entries, one))
      await Promise.all(needed.map((one) => this.#loadOne(one)))
      parameters[parameter] = argumentValue(expression, (one) =>
        needed.includes(one) ? this.#data.get(one).value : fromAddress.get(one),
      )
    }
    return parameters
  }

  #readPage(parameter: string): number {
    const raw = new URLSearchParams(this.#page.query).get(parameter) ?? undefined
    const page = readPage(raw)
    const { walk } = this.#page
    if (walk && !walk.record.parameters.some((one) => one.name === parameter && one.from === 'query')) {
      const note =
        raw === undefined
          ? 'missing, so the first page'
          : String(page) === raw
            ? null
            : `“${shorten(raw, 40)}” is not a page number, read as ${page}`
      walk.record.parameters.push({
        name: parameter,
        from: 'query',
        raw: raw ?? null,
        type: 'page number',
        value: page,
        note,
      })
    }
    return page
  }

  async #render(template: string): Promise<string> {
    const { blog, site, walk } = this.#page
    const { templates } = site.definition
    for (let round = 0; round < ROUNDS; round++) {
      const start = performance.now()
      const trace = walk?.beginRendering(template)
      try {
        const html = templates.render(template, Object.keys(this.#entries), this.#globals(), {
          data: this.#data,
          fragments: this.#session,
          now: blog.clock(),
          url: (route, parameters) => blog.addressOf(site, route, parameters),
          asset: (name) => assetAddress(site, name),
          request: { path: this.#shownPath, query: this.#page.query },
          ...(trace ? { trace } : {}),
        })
        walk?.endRendering()
        this.#session.commit(this.#session.needsDueTime ? await blog.nextDue() : Infinity)
        return html
      } catch (error) {
        if (!(error instanceof DataNeeded)) throw error
        this.#late = 'run late: a kept part that reads it had to be made'
        await this.#load(error.names)
        this.#session.restart()
      } finally {
        if (walk) walk.record.templates.milliseconds += performance.now() - start
      }
    }
    throw new Error('the page asked for data again and again')
  }

  #globals(): object {
    const { blog, site, id, query, as, form } = this.#page
    const path = this.#shownPath
    const { settings } = site.definition
    const data = this.#data
    return {
      blog: {
        title: settings.title,
        tagline: settings.tagline ?? '',
        origin: settings.origin ?? '',
        language: settings.language ?? 'en',
      },
      request: {
        path,
        query,
        url: query === '' ? path : `${path}?${query}`,
        route: this.#route.route.name,
        params: Object.fromEntries(
          [...this.#fromQuery, ...this.#route.parameters].map((one) => [one.name, one.value]),
        ),
      },
      heading: this.#route.route.heading ?? '',
      visitor: { isAuthor: as === 'author' },
      form: { values: form?.values ?? { name: '', text: '' }, errors: form?.errors ?? {}, once: id },
      now: blog.clock(),
      get navigation() {
        return data.get(NAVIGATION).value
      },
      get nearest() {
        return data.get(NEAREST).value
      },
    }
  }

  #note(
    walk: Walk,
    name: string,
    query: SiteQuery,
    result: QueryResult,
    milliseconds: number,
    parameters: Record<string, unknown>,
  ): void {
    const { meaning } = query
    const run: WalkQuery = {
      ...this.#identity(name, query),
      outcome: result.rows.length === 0 ? 'empty' : 'rows',
      why: liftsPublished(meaning, this.#page.as)
        ? 'asked without “published”, because the author may see what is not'
        : this.#late,
      statements: result.statements.map(plainStatement),
      rows: result.rows.length,
      total: result.total ?? null,
      shown: result.rows.map((row) => labelOf(meaning.from, row)),
      parameters: Object.fromEntries(
        meaning.parameters.map((one) => [one, plainValue(parameters[one] ?? null)]),
      ),
      milliseconds,
    }
    walk.record.queries.runs.push(run)
    if (run.outcome === 'empty') walk.emptyRuns.push({ run, query, parameters })
  }

  #identity(name: string, query: SiteQuery): Pick<WalkQuery, 'data' | 'query' | 'document' | 'sentence'> {
    return {
      data: name,
      query: query.name,
      document: name === NAVIGATION ? null : queryPath(query.name),
      sentence: describeQuery(query.meaning),
    }
  }

  #noteFailed(walk: Walk, name: string, query: SiteQuery, { statement, message }: QueryFailure): void {
    walk.record.queries.runs.push({
      ...this.#identity(name, query),
      ...NO_RESULT,
      outcome: 'failed',
      why: message,
      statements: [plainStatement(statement)],
      milliseconds: statement.milliseconds,
    })
  }

  /** Adds the data that was not fetched, and puts all in the order of the route. */
  #finishNotes(walk: Walk, read: ReadonlySet<string>, failed?: string): void {
    const order = [...Object.keys(this.#entries), NAVIGATION]
    this.#noteNotRun(walk, order, read, failed)
    walk.record.queries.runs.sort((a, b) => order.indexOf(a.data) - order.indexOf(b.data))
  }

  #noteNotRun(
    walk: Walk,
    order: readonly string[],
    read: ReadonlySet<string>,
    failed: string | undefined,
  ): void {
    for (const name of order) {
      if (this.#loading.has(name) || (name === NAVIGATION && !read.has(name))) continue
      walk.record.queries.runs.push({
        ...this.#identity(name, this.#queryOf(name)),
        ...NO_RESULT,
        outcome: 'not-run',
        why: !read.has(name)
          ? 'not run: no template of this page reads it'
          : (failed ?? 'not run: only kept parts read it, and their copies were at hand'),
      })
    }
  }
}

const NO_RESULT = { parameters: {}, statements: [], rows: 0, total: null, shown: [], milliseconds: 0 }

const plainStatement = (run: StatementRun): StatementRun => ({ ...run, values: run.values.map(plainValue) })

const plainValue = (value: unknown): unknown => (value instanceof Date ? value.toISOString() : value)

function labelOf(source: string, row: Row): { label: string; document: string | null } {
  const text = row['title'] ?? row['name'] ?? `row ${String(row['id'])}`
  const label =
    source === 'comments'
      ? `${String(row['name'])}: ${shorten(String(row['text']).replace(/\s+/g, ' '), 60)}`
      : String(text)
  return { label, document: source === 'posts' ? `content/posts/${String(row['slug'])}.md` : null }
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
