/** Builds one page: loads the route's data and renders its template. */
import type { Dependence } from '../../core/caching/dependence.ts'
import { FragmentSession, type FragmentOutcome } from '../../core/caching/session.ts'
import { cacheControl, fragmentRefresh, pageRule } from '../../core/caching/rules.ts'
import { DataNeeded } from '../../core/templates/scope.ts'
import { blogValues } from './blog-values.ts'
import { buildAddress } from './addresses/build-address.ts'
import { addressFor } from './addresses/slug-address.ts'
import { Ended, FORM, NEAREST, PageData } from './page-data.ts'
import type { Ending, PageRequest, RouteInForce } from './page-request.ts'
import { rulesOf, serviceOrigin } from './comments/form.ts'
import { writerCookie } from './comments/visitor.ts'
import type { DueTime } from '../store/content/posts.ts'
import type { Since } from './pages/missing-copies.ts'
import { noPlaces, type PlaceCounts } from './pages/places.ts'
import { PRIVATE, type BlogResponse } from './responses.ts'
import { assetAddress, NAVIGATION } from '../publish/site.ts'
import { threadTime } from './thread-time.ts'
import type { PageSummary } from './tracer.ts'

export type PageResult = { outcome: 'page'; html: string; answer?: BlogResponse } | Ending

/** The maximum number of renderings of one page. Each needs data that the one before did not. */
const ROUNDS = 25

/** Thrown when a page that was rendered for all readers cannot be filled in for one. */
export class Unfillable extends Error {}

/** Makes a copy of a page that was rendered. */
export interface Keeper {
  keep(
    session: FragmentSession,
    html: string,
    made: { reads: PlaceCounts; formOf: number | null; dependence: Dependence },
  ): BlogResponse | undefined
  readonly isStored: boolean
  /** Shares the stored copy. @param due if the page depends on time */
  share?(due: DueTime | undefined): void
}

export class PageRendering {
  readonly #page: PageRequest
  readonly #route: RouteInForce
  readonly #data: PageData
  readonly #session: FragmentSession
  /** Decided once, so that a page is either rendered with copies or without. */
  readonly #trusts: boolean
  /** Before any row is read. */
  readonly #begun: number
  readonly #copy: Keeper | undefined
  #isStored = false
  readonly took = { queries: 0, templates: 0 }

  /**
   * @param copy is made of the page
   * @param since when what decides about the page was read first, if that was before
   */
  constructor(page: PageRequest, route: RouteInForce, copy?: Keeper, since?: Since) {
    this.#page = page
    this.#route = route
    this.#copy = copy
    this.#data = new PageData(page, route, { forAll: copy !== undefined })
    this.#trusts = page.ports.trustsCopies
    const { ports } = page
    this.#begun = since?.moment ?? performance.now()
    this.#session = new FragmentSession(
      this.#bypasses ? undefined : ports.fragments,
      since?.now ?? ports.clock().getTime(),
      since?.generation,
    )
  }

  /** Whether the fragment store is not used: an author may see what readers must not. */
  get #bypasses(): boolean {
    return this.#page.request.as === 'author' || !this.#trusts
  }

  get fragments(): readonly FragmentOutcome[] {
    return this.#session.outcomes
  }

  /** Whether the page has a form, which is for one reader. */
  get hasForm(): boolean {
    return this.#data.loaded.isLoaded(FORM)
  }

  /** Whether the copy of the page was stored. */
  get isStored(): boolean {
    return this.#isStored
  }

  /** What browsers and shared caches may do with the page. */
  get cacheControl(): string {
    const { site, request } = this.#page
    if (this.hasForm) return PRIVATE['cache-control']
    // An author sees what readers must not.
    if (request.as === 'author') return PRIVATE['cache-control']
    return cacheControl(pageRule(site.definition.cache, this.#route.route.name))
  }

  /** Headers that make a browser known for whom the page has a form. */
  get cookies(): string[] {
    const { ports, site } = this.#page
    const { newWriter } = this.#data
    return newWriter === undefined ? [] : [writerCookie(ports, newWriter, site.definition.settings.origin)]
  }

  /** The origin of the service whose thread of comments the page has. */
  get embedded(): string | undefined {
    const { ports, site } = this.#page
    const { value } = this.#data.loaded.isLoaded(FORM) ? this.#data.loaded.get(FORM) : { value: null }
    // Pages without a post have no form.
    const form = value as { outside: unknown } | null | undefined
    return form?.outside ? serviceOrigin(ports, rulesOf(site, this.#route.route.name)) : undefined
  }

  /** Loads a single value of the route's data, which an action needs. */
  async value(name: string): Promise<{ outcome: 'value'; value: unknown } | Ending> {
    try {
      await this.#data.load([name])
      const { value } = this.#data.loaded.get(name)
      return value === null ? { outcome: 'not-found' } : { outcome: 'value', value }
    } catch (error) {
      if (error instanceof Ended) return error.ending
      throw error
    }
  }

  async run(template: string): Promise<PageResult> {
    const { tracer, site } = this.#page
    const { all, outsideFragments } = site.definition.templates.names(template)
    const finish = (failed: boolean) => tracer.queriesFinished(() => this.#summary(template, all, failed))
    try {
      // First what decides whether the page exists, then what is read outside fragments.
      await this.#load(this.#data.deciding)
      await this.#load(this.#needed(this.#bypasses ? all : outsideFragments))
      const rendered = await this.#render(template)
      finish(false)
      return { outcome: 'page', ...rendered }
    } catch (error) {
      if (error instanceof Ended) return error.ending
      finish(true)
      throw error
    }
  }

  async #load(names: readonly string[]): Promise<void> {
    const start = performance.now()
    try {
      await this.#data.load(names)
    } finally {
      this.took.queries += performance.now() - start
    }
  }

  #needed(read: ReadonlySet<string>): string[] {
    return [...Object.keys(this.#data.entries), NAVIGATION, NEAREST, FORM].filter((name) => read.has(name))
  }

  #summary(template: string, read: ReadonlySet<string>, failed: boolean): PageSummary {
    const names = [...Object.keys(this.#data.entries), NAVIGATION]
    return {
      names,
      notRun: names
        .filter((name) => !this.#data.wasRun(name))
        .map((name) => ({ name, query: this.#data.queryOf(name) })),
      read,
      reads: this.#page.site.definition.templates.fieldReads(template, Object.keys(this.#data.entries)),
      failed,
    }
  }

  async #render(template: string): Promise<{ html: string; answer?: BlogResponse }> {
    const { ports, site, tracer, shownPath, search } = this.#page
    const { templates } = site.definition
    const now = ports.clock()
    for (let round = 0; round < ROUNDS; round++) {
      const start = performance.now()
      tracer.renderingStarted(template)
      if (this.#copy) this.#session.open()
      this.#data.placeReads = noPlaces()
      try {
        const html = templates.render(template, Object.keys(this.#data.entries), this.#globals(now), {
          data: this.#data.loaded,
          definition: site.parts,
          fragments: this.#session,
          refreshOf: (name) => fragmentRefresh(site.definition.cache, name),
          now,
          url: (route, parameters) => buildAddress(site, route, parameters),
          asset: (name) => assetAddress(site, name),
          described: {
            blog: blogValues(site.definition.settings),
            addressOf: (kind, slug) => addressFor({ site }, kind, slug)?.path,
          },
          processorTime: threadTime,
          request: { path: shownPath, search },
          tracer,
        })
        tracer.renderingFinished()
        this.took.templates += performance.now() - start
        const answer = this.#copy && this.#kept(this.#copy, html)
        if (this.#data.isMadeUp) this.#session.dropPage()
        if (!this.#data.isUnstable) {
          const due = this.#session.needsDueTime ? await ports.nextDue(this.#begun) : undefined
          this.#session.commit(due?.at ?? Infinity)
          this.#isStored = this.#copy?.isStored ?? false
          if (this.#isStored) this.#copy?.share?.(due)
        }
        return { html, ...(answer ? { answer } : {}) }
      } catch (error) {
        if (!(error instanceof DataNeeded)) throw error
        tracer.moreDataNeeded()
        await this.#load(error.names)
        this.#session.restart()
      } finally {
        tracer.renderingTook(performance.now() - start)
      }
    }
    throw new Error(`The page needed more data after ${ROUNDS} renderings.`)
  }

  /** Makes the copy of a page, and returns what the reader gets. */
  #kept(copy: Keeper, html: string): BlogResponse {
    this.#session.limit(this.#data.formUntil)
    const answer = copy.keep(this.#session, html, {
      reads: this.#data.placeReads,
      formOf: this.#data.formOf,
      dependence: this.#data.loaded.dependence(),
    })
    if (!answer) throw new Unfillable()
    return answer
  }

  #globals(now: Date): object {
    const { site, request, shownPath, query } = this.#page
    const { settings } = site.definition
    const data = this.#data
    return {
      blog: blogValues(settings),
      request: {
        path: shownPath,
        query,
        url: query === '' ? shownPath : `${shownPath}?${query}`,
        route: this.#route.route.name,
        params: data.parameters,
        /** The canonical address, with the blog's origin if the settings have one. */
        get canonical() {
          return `${settings.origin ?? ''}${data.canonical}`
        },
      },
      heading: this.#route.route.heading ?? '',
      visitor: { isAuthor: request.as === 'author' },
      get form() {
        return data.loaded.get(FORM).value
      },
      now,
      get navigation() {
        return data.loaded.get(NAVIGATION).value
      },
      get nearest() {
        return data.loaded.get(NEAREST).value
      },
    }
  }
}
