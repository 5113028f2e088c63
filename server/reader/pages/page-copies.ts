/** Copies of whole pages: which requests they answer, how they are identified, and how they are stored. */
import { cacheControl } from '../../../core/caching/rules.ts'
import type { FragmentSession } from '../../../core/caching/session.ts'
import type { Copy, PageAnswer } from '../../../core/caching/store.ts'
import type { Route } from '../../../core/shapes/schemas.ts'
import type { Site } from '../../publish/site.ts'
import { rulesOf } from '../comments/form.ts'
import { visitorOf, writerHash, type Visitor } from '../comments/visitor.ts'
import { formFacts } from '../../store/content/comments.ts'
import { tagOf, varied } from '../http/send.ts'
import type { DueTime } from '../../store/content/posts.ts'
import type { PageRequest, RouteInForce } from '../page-request.ts'
import { edgeFields, edgeLifetimeNow } from './edge-fields.ts'
import { hitFields, pageHeaders, PRIVATE, type BlogResponse } from '../responses.ts'
import { countsOf } from './copy-counts.ts'
import { filled } from './filled.ts'
import { REPLY, useOf, type PageUse } from './page-use.ts'
import { beginRendering, renderingOf } from './renderings.ts'
import type { SeenState } from './shared-port.ts'
import { cutAtPlaces, PLACES, REMEMBERED_PLACES, type PlaceCounts } from './places.ts'

/** What a copy answers: requests for the page, or for its data as JSON. */
export type CopyKind = 'page' | 'json'

/** The copy that answers a request, or that is made of its answer. */
export class PageCopy {
  readonly name: string
  readonly #kind: CopyKind
  readonly #route: string
  readonly #page: PageRequest
  readonly #key: string
  readonly #target: string
  readonly #state: string
  readonly #use: PageUse
  readonly #isJsonToo: boolean

  /** Of the copy for readers of whom nothing is remembered. */
  readonly #plainKey: string
  readonly #hasCommented: boolean

  /** The state of the database before anything was read. */
  readonly #seen: SeenState | undefined

  /** @param reader for whom the page has a form */
  constructor(page: PageRequest, route: Route, use: PageUse, kind: CopyKind, reader?: Visitor) {
    this.#seen = page.ports.shared?.seen
    this.#kind = kind
    this.#route = route.name
    this.#page = page
    this.#use = use
    this.#isJsonToo = route.json === true
    this.name = `${kind} ${route.name}`
    this.#state = page.site.parts.state(this.name) ?? ''
    this.#target = page.query === '' ? page.shownPath : `${page.shownPath}?${page.query}`
    this.#hasCommented = reader?.hasCommented ?? false
    // Where there is something to fill in, templates may print other things, such as a ticked box.
    const filled = REMEMBERED_PLACES.filter((one) => (reader?.remembered[one] ?? '') !== '')
    const variant = filled.length === 0 ? '' : ` for readers with ${filled.join(', ')}`
    this.#key = `${this.name} ${this.#target}${variant} #${this.#state}`
    this.#plainKey = `${this.name} ${this.#target} #${this.#state}`
  }

  /** Resolves when the rendering in progress ends; undefined if there is none. */
  get rendering(): Promise<void> | undefined {
    return renderingOf(this.#page.ports.fragments, this.#key)
  }

  /** Registers a rendering. @returns a function to call when it ends */
  begin(): () => void {
    return beginRendering(this.#page.ports.fragments, this.#key)
  }

  /** Whether a change of what the page shows leaves its copies as they are. */
  get isRefreshedByAge(): boolean {
    return this.#use.rule.refresh === 'by-age'
  }

  /**
   * Whether this reader gets the same page as others. A reader who has sent a comment sees it while it waits or can still be
   * changed, and then needs a page of their own.
   */
  suits(): Promise<boolean> | true {
    return this.#hasCommented ? this.#suitsCommenter() : true
  }

  async #suitsCommenter(): Promise<boolean> {
    const { ports, request, site } = this.#page
    const known = ports.fragments.peek(this.#key) ?? ports.fragments.peek(this.#plainKey)
    const post = known?.answer?.formOf
    if (post === undefined) return false
    if (post === null) return true
    const { own, isUnconfirmed } = await formFacts(ports.pool, {
      post,
      writer: writerHash(ports, visitorOf(ports, request).writer),
      parent: null,
      since: new Date(ports.clock().getTime() - rulesOf(site, this.#route).editableFor),
    })
    return own.length === 0 && !isUnconfirmed
  }

  /** Whether no connection to the database can be made, so that the stored copy is the latest that is known. */
  get isDatabaseAway(): boolean {
    return this.#page.ports.isDatabaseAway
  }

  get isStored(): boolean {
    return this.ageMilliseconds !== undefined
  }

  /** The age of the stored copy; undefined if there is none. */
  get ageMilliseconds(): number | undefined {
    const { fragments, clock } = this.#page.ports
    const now = clock().getTime()
    const copy = fragments.get(this.#key, now)
    return copy && now - copy.madeAt
  }

  /** Returns the answer of a stored copy. @param detail why an answer that may be outdated is given */
  take(detail?: string): BlogResponse | undefined {
    const { ports } = this.#page
    const now = ports.clock().getTime()
    const copy = ports.fragments.get(this.#key, now)
    if (!copy) return undefined
    countsOf(ports.fragments).note(`page ${this.#route}`, 'hit', now)
    return this.#answer(copy, now, 'hit', detail)
  }

  /** Answers with a copy that another process has rendered. */
  async takeShared(): Promise<BlogResponse | undefined> {
    const { shared, clock, fragments } = this.#page.ports
    const copy = await shared?.take(this.#key)
    if (!copy) return undefined
    const now = clock().getTime()
    countsOf(fragments).note(`page ${this.#route}`, 'hit', now)
    return this.#answer(copy, now, 'hit')
  }

  /** Shares the stored copy with other processes. */
  share(due: DueTime | undefined): void {
    const { shared, fragments } = this.#page.ports
    const stored = shared && fragments.peek(this.#key)
    if (stored && this.#seen) shared.put(this.#key, stored, this.#seen, due)
  }

  /** Returns the answer of a copy that is too old, if the rule allows that while a new one is rendered, or if that fails. */
  takeStale(why: 'revalidating' | 'error'): BlogResponse | undefined {
    const { staleWhileRevalidate, staleIfError } = this.#use.rule
    const allowed = why === 'error' ? staleIfError : staleWhileRevalidate
    if (allowed === 0) return undefined
    const { ports } = this.#page
    const now = ports.clock().getTime()
    const copy = ports.fragments.getStale(this.#key, now)
    if (!copy || now >= copy.agesAt + allowed) return undefined
    countsOf(ports.fragments).note(`page ${this.#route}`, 'hit', now)
    return this.#answer(
      copy,
      now,
      'hit',
      why === 'error' ? 'rendering failed' : 'a new copy is being rendered',
    )
  }

  /**
   * Makes a copy of a page that was rendered, which the session stores.
   * @param made.reads how often the template read what differs between readers
   * @param made.formOf the post of the form
   * @returns the page as the reader gets it; undefined if something was not printed as it is
   */
  keep(
    session: FragmentSession,
    html: string,
    {
      reads,
      formOf,
      dependence,
    }: { reads: PlaceCounts; formOf: number | null; dependence: Copy['dependence'] },
  ): BlogResponse | undefined {
    const cut = cutAtPlaces(html)
    const changed = PLACES.filter((one) => cut.printed[one] !== reads[one])
    if (changed.length > 0) {
      if (changed.includes('token')) this.#use.isFillable = false
      else this.#use.isFillableForRemembered = false
      return undefined
    }
    const headers = {
      ...pageHeaders(this.#page.site.definition),
      ...(this.#isJsonToo ? { vary: 'accept' } : {}),
      ...(this.#use.hasForm ? PRIVATE : this.#cacheControl),
    }
    return this.#made(session, { ...cut, formOf, headers, dependence })
  }

  /** Makes a copy of the data of a page, which the session stores. @returns the answer */
  keepData(
    session: FragmentSession,
    json: string,
    headers: Readonly<Record<string, string>>,
    dependence: Copy['dependence'],
  ): BlogResponse | undefined {
    return this.#made(session, {
      content: [json],
      places: [],
      formOf: null,
      headers: { ...headers, ...this.#cacheControl },
      dependence,
    })
  }

  /** How long the edge cache may store the page, in milliseconds. */
  get #edgeLifetime(): number {
    const { ports, site } = this.#page
    return this.isRefreshedByAge || this.#use.hasForm ? 0 : edgeLifetimeNow(ports, site)
  }

  /** Describes in a walk what the edge cache may do; undefined if nothing. */
  get edgeText(): string | undefined {
    const seconds = this.#edgeLifetime / 1_000
    return seconds > 0
      ? `The edge cache may store it for up to ${seconds.toLocaleString('en-GB')} s, and is purged on change.`
      : undefined
  }

  /** The fields for the edge cache of a copy that was just stored, whose expiry is only known now. */
  get storedFields(): Record<string, string> {
    const { fragments, clock } = this.#page.ports
    const stored = this.#edgeLifetime > 0 ? fragments.peek(this.#key) : undefined
    return stored ? edgeFields(stored, this.#edgeLifetime, clock().getTime()) : {}
  }

  get #cacheControl(): { 'cache-control': string } {
    return { 'cache-control': cacheControl(this.#use.rule) }
  }

  #made(
    session: FragmentSession,
    {
      content,
      places,
      formOf,
      headers,
      dependence,
    }: {
      content: readonly string[]
      places: readonly string[]
      formOf: number | null
      headers: Record<string, string>
      dependence: Copy['dependence']
    },
  ): BlogResponse | undefined {
    // What is filled in changes neither.
    const text = content.join('')
    const answer = {
      status: 200,
      headers: { ...headers, ...varied({ headers, body: text }) },
      tag: tagOf(text),
      modified: new Date(session.now).toUTCString(),
      target: this.#kind === 'page' ? this.#target : null,
      uses: 0,
      places,
      formOf,
    }
    const copy = session.keepPage(
      { key: this.#key, name: this.name, rule: this.#use.rule },
      content,
      answer,
      dependence,
      new Map([[this.name, this.#state]]),
    )
    return this.#answer(copy, this.#page.ports.clock().getTime(), 'miss')
  }

  #answer(copy: Copy, now: number, outcome: 'hit' | 'miss', detail?: string): BlogResponse | undefined {
    const { answer } = copy
    if (!answer) return undefined
    if (outcome === 'hit') answer.uses++
    const { ports, site, request } = this.#page
    const { clock, cursorKey, fragments } = ports
    const key = this.#key
    const { body, encoded, cookies } = filled(
      { site, clock, cursorKey },
      request,
      { ...copy, answer },
      (bytes) => fragments.grow(key, copy, bytes),
    )
    return {
      status: 200,
      headers: this.#headers({ ...copy, answer }, now, outcome, detail),
      body,
      encoded,
      copy: outcome,
      route: this.#route,
      fragments: [],
      ...(cookies.length > 0 ? { cookies } : {}),
    }
  }

  #headers(
    copy: Copy & { answer: PageAnswer },
    now: number,
    outcome: 'hit' | 'miss',
    detail: string | undefined,
  ): Record<string, string> {
    const { content, answer, madeAt, expiresAt } = copy
    const isForAll = content.length === 1
    const age = Math.max(0, Math.floor((now - madeAt) / 1_000))
    const ttl = Math.floor((expiresAt - now) / 1_000)
    // A copy that was made in the same second may have replaced another one (RFC 9110 §8.8.2.2).
    const isDated = Math.floor(madeAt / 1_000) < Math.floor(now / 1_000)
    const elsewhere = isForAll && detail === undefined ? this.#edgeLifetime : 0
    const state = `${outcome} ${age} ${ttl} ${isDated} ${elsewhere} ${detail ?? ''}`
    const known = isForAll ? heads.get(answer) : undefined
    if (known?.state === state) return known.headers
    const made = {
      ...answer.headers,
      // Each token is used for one answer.
      etag: isForAll ? `"${answer.tag}"` : `"${answer.tag}-${this.#page.request.id}"`,
      ...(isDated ? { 'last-modified': answer.modified } : {}),
    }
    if (outcome === 'miss') return made
    const headers = {
      ...made,
      ...hitFields(age, ttl, detail),
      ...(elsewhere > 0 ? edgeFields(copy, elsewhere, now) : {}),
    }
    heads.set(answer, { state, headers: Object.freeze(headers) })
    return headers
  }
}

/** The headers of the latest answer of a copy, which change once a second. */
const heads = new WeakMap<PageAnswer, { state: string; headers: Record<string, string> }>()

/** Why a page is rendered for one request alone. */
const REASONS = {
  author: 'an author sees what readers must not',
  form: 'a form was sent',
  off: 'copies are not kept here',
  text: 'the address has a search text, and the number of these has no limit',
  time: 'a template reads the time other than to print a date',
  token: 'a template changes the token of the form',
  reply: 'the form is open as a reply',
  service: 'the page embeds an outside comment service',
  remembered: 'a template changes a remembered value of the form',
} as const
export type Reason = keyof typeof REASONS

/** Returns why no copy of a route's pages is ever used, as a phrase; null if copies are used. */
export function reasonAgainst(site: Site, route: Route): string | null {
  const use = useOf(site, route)
  const reason =
    reasonOfUse(use) ?? (use.hasForm && rulesOf(site, route.name).outside ? 'service' : undefined)
  return reason === undefined ? null : REASONS[reason]
}

function reasonOfUse({ isTimeless, rule, hasForm, isFillable }: PageUse): 'time' | 'token' | undefined {
  if (!isTimeless && rule.refresh !== 'by-age') return 'time'
  return hasForm && !isFillable ? 'token' : undefined
}

/** Returns the copy for a request, or why there is none. */
export function pageCopyFor(
  page: PageRequest,
  { route }: RouteInForce & { route: Route },
  kind: CopyKind = 'page',
): PageCopy | Reason {
  const { ports, request, site, search } = page
  if (request.as !== 'reader') return 'author'
  if (page.form) return 'form'
  if (!ports.keepsFragments) return 'off'
  const use = useOf(site, route)
  if (use.freeTexts.some((one) => (search.get(one) ?? '') !== '')) return 'text'
  // Data has no template, and no form.
  if (kind === 'json') return new PageCopy(page, route, use, kind)
  const reason = reasonOfUse(use)
  if (reason !== undefined) return reason
  if (use.hasForm) {
    if (search.has(REPLY)) return 'reply'
    // The page names the address that was requested.
    if (rulesOf(site, route.name).outside) return 'service'
    const reader = visitorOf(ports, request)
    const isRemembered = Object.values(reader.remembered).some((one) => one !== '')
    if (isRemembered && !use.isFillableForRemembered) return 'remembered'
    return new PageCopy(page, route, use, kind, reader)
  }
  return new PageCopy(page, route, use, kind)
}

/** Says in a walk, which renders the page, what other requests get. */
export function describeCopy(found: PageCopy | Reason): string {
  if (typeof found === 'string') return `No copy of the page is used: ${REASONS[found]}.`
  const age = found.ageMilliseconds
  const here =
    age === undefined
      ? 'The page is kept whole. No copy is stored now, so the next reader’s answer is stored.'
      : `Readers get a copy of the page, which was made ${Math.round(age / 1_000)} s ago. The walk renders it again.`
  return [here, found.edgeText].filter((one) => one !== undefined).join(' ')
}
