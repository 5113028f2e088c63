/** Copies of whole pages: which requests they answer, how they are identified, and how they are stored. */
import type { FragmentSession } from '../../../core/caching/session.ts'
import type { Copy, FragmentStore } from '../../../core/caching/store.ts'
import type { Route } from '../../../core/shapes/schemas.ts'
import type { Site } from '../../publish/site.ts'
import { rulesOf } from '../comments/form.ts'
import { visitorOf } from '../comments/visitor.ts'
import { etagOf } from '../http/send.ts'
import { FORM, type PageRequest, type RouteInForce } from '../page-data.ts'
import { PAGE_HEADERS, type BlogResponse } from '../responses.ts'
import { filled, PLACE } from './filled.ts'

/** How long a copy is kept at most, in milliseconds: a week. */
const LIFETIME = 604_800_000
/** The parameter of the query string that opens the form as a reply. */
const REPLY = 'reply'

/** What the pages of a route use of a request. */
export interface PageUse {
  /** The parameters of the query string that can change a page, in the order in which they are printed. */
  parameters: readonly string[]
  hasForm: boolean
  /** False if a template reads the time, other than to print a date: then no copy is right a moment later. */
  isTimeless: boolean
  /** Whether the token of the form is printed as it is, so that it can be filled in; unknown until a page is rendered. */
  isFillable: boolean
}

/** The copies that are being made, by key. */
const renderings = new WeakMap<FragmentStore, Map<string, Promise<void>>>()

const uses = new WeakMap<Site, Map<string, PageUse>>()

export function useOf(site: Site, { name, template, query, data }: Route): PageUse {
  let ofSite = uses.get(site)
  if (!ofSite) uses.set(site, (ofSite = new Map()))
  let use = ofSite.get(name)
  if (!use) {
    const { queries, templates } = site.definition
    const hasForm = template !== undefined && templates.names(template).all.has(FORM)
    const pages = Object.values(data ?? {}).flatMap((entry) => {
      const take = queries.get(typeof entry === 'string' ? entry : entry.query)?.take
      return take?.kind === 'pages' ? [take.parameter] : []
    })
    const parameters = [...new Set([...Object.keys(query ?? {}), ...pages, ...(hasForm ? [REPLY] : [])])]
    const isTimeless = template !== undefined && !templates.readsClock(template)
    ofSite.set(name, (use = { parameters, hasForm, isTimeless, isFillable: true }))
  }
  return use
}

/** Returns the parameters that a page uses. Others neither change it nor appear in it. */
export function usedSearch({ parameters }: PageUse, search: URLSearchParams): URLSearchParams {
  const used = new URLSearchParams()
  if (search.size > 0)
    for (const name of parameters) {
      const value = search.get(name)
      if (value !== null) used.set(name, value)
    }
  return used
}

/** The copy that answers a request, or that is made of its answer. */
export class PageCopy {
  readonly name: string
  readonly #page: PageRequest
  readonly #key: string
  readonly #state: string
  readonly #use: PageUse
  readonly #isJsonToo: boolean

  constructor(page: PageRequest, route: Route, use: PageUse) {
    this.#page = page
    this.#use = use
    this.#isJsonToo = route.json === true
    this.name = `page ${route.name}`
    this.#state = page.site.parts.state(this.name) ?? ''
    const query = page.query === '' ? '' : `?${page.query}`
    this.#key = `${this.name} ${page.shownPath}${query} #${this.#state}`
  }

  /** Returns when the rendering ends that makes the copy now; undefined if there is none. */
  get rendering(): Promise<void> | undefined {
    return renderings.get(this.#page.ports.fragments)?.get(this.#key)
  }

  /** Notes that the copy is being made. @returns a function that says when it was */
  begin(): () => void {
    const { fragments } = this.#page.ports
    let ofStore = renderings.get(fragments)
    if (!ofStore) renderings.set(fragments, (ofStore = new Map()))
    const all = ofStore
    let finish = () => undefined as void
    const rendering = new Promise<void>((done) => (finish = done))
    all.set(this.#key, rendering)
    return () => {
      if (all.get(this.#key) === rendering) all.delete(this.#key)
      finish()
    }
  }

  get isStored(): boolean {
    const { fragments, clock } = this.#page.ports
    return fragments.get(this.#key, clock().getTime()) !== undefined
  }

  /** Returns the answer of a stored copy. @param detail why an answer that may be outdated is given */
  take(detail?: string): BlogResponse | undefined {
    const { ports } = this.#page
    const now = ports.clock().getTime()
    const copy = ports.fragments.get(this.#key, now)
    return copy && this.#answer(copy, now, 'hit', detail)
  }

  /**
   * Makes a copy of a page that was rendered, which the session stores.
   * @param reads how often the template read the token of the form
   * @returns the page as the reader gets it; undefined if the token was not printed as it is
   */
  keep(
    session: FragmentSession,
    html: string,
    { reads, dependence }: { reads: number; dependence: Copy['dependence'] },
  ): BlogResponse | undefined {
    const parts = html.split(PLACE)
    if (parts.length - 1 !== reads) {
      this.#use.isFillable = false
      return undefined
    }
    const headers = {
      ...PAGE_HEADERS,
      ...(this.#isJsonToo ? { vary: 'accept' } : {}),
      // What was filled in is for one reader.
      ...(parts.length === 1 ? { etag: etagOf(html) } : { 'cache-control': 'private, no-cache' }),
    }
    const answer = { headers, parts }
    const now = this.#page.ports.clock().getTime()
    const copy = session.keepPage(
      { key: this.#key, name: this.name, lifetime: LIFETIME },
      answer,
      dependence,
      new Map([[this.name, this.#state]]),
    )
    return this.#answer(copy, now, 'miss')
  }

  #answer(copy: Copy, now: number, outcome: 'hit' | 'miss', detail?: string): BlogResponse | undefined {
    const { answer, madeAt, expiresAt } = copy
    if (!answer) return undefined
    const { ports, site, request } = this.#page
    const { clock, cursorKey } = ports
    const { body, encoded, cookies } = filled({ site, clock, cursorKey }, request, answer)
    const age = Math.max(0, Math.floor((now - madeAt) / 1_000))
    const ttl = Math.floor((expiresAt - now) / 1_000)
    return {
      status: 200,
      headers: {
        ...answer.headers,
        // A copy that was made in the same second may have replaced another one (RFC 9110 §8.8.2.2).
        ...(Math.floor(madeAt / 1_000) < Math.floor(now / 1_000)
          ? { 'last-modified': new Date(madeAt).toUTCString() }
          : {}),
        ...(outcome === 'hit'
          ? {
              age: String(age),
              'cache-status': `esquina-pages; hit; ttl=${ttl}${detail === undefined ? '' : `; detail="${detail}"`}`,
            }
          : {}),
      },
      body,
      encoded,
      copy: outcome,
      route: this.name.slice('page '.length),
      fragments: [],
      ...(cookies.length > 0 ? { cookies } : {}),
    }
  }
}

/** Returns the copy for a request; undefined if its answer is for one reader only, or if copies are not used. */
export function pageCopyFor(
  page: PageRequest,
  { route }: RouteInForce & { route: Route },
): PageCopy | undefined {
  const { ports, request, site, search, tracer } = page
  // A walk shows how a page is made.
  if (request.as !== 'reader' || tracer.isRecording || page.form || !ports.keepsFragments) return undefined
  const use = useOf(site, route)
  if (!use.isTimeless) return undefined
  if (use.hasForm) {
    // With an outside service, the page names the address that was requested.
    if (!use.isFillable || search.has(REPLY) || rulesOf(site, route.name).outside) return undefined
    const { hasCommented, remembered } = visitorOf(ports, request)
    if (hasCommented || Object.values(remembered).some((one) => one !== '')) return undefined
  }
  return new PageCopy(page, route, use)
}
