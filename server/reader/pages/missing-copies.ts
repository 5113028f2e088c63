/**
 * Copies of what an address without a page answers: the 404 page, or a redirect from a former slug. Anybody can make up
 * such addresses, so only a few are kept, and any change of content drops them.
 */
import { LRUCache } from 'lru-cache'
import { pageRule } from '../../../core/caching/rules.ts'
import { FragmentSession } from '../../../core/caching/session.ts'
import { joinDependences, type Dependence } from '../../../core/caching/dependence.ts'
import type { Copy, FragmentStore } from '../../../core/caching/store.ts'
import { NOT_FOUND } from '../../publish/site.ts'
import { tagOf } from '../http/send.ts'
import { ALL_ADDRESSES } from '../page-data.ts'
import type { PageRequest } from '../page-request.ts'
import { edgeFields, edgeLifetimeNow } from './edge-fields.ts'
import { hitFields, pageHeaders, type BlogResponse } from '../responses.ts'
import { countsOf } from './copy-counts.ts'
import { filled } from './filled.ts'
import { beginRendering, renderingOf } from './renderings.ts'
import { PLACES, type PlaceCounts } from './places.ts'

/** How many are kept at most, and how long their addresses may be, in characters. */
const MOST = 200
const LONGEST = 500

const NAME = `page ${NOT_FOUND}`

/** The keys of the copies that are kept in a store, in the order of their use. */
const keys = new WeakMap<FragmentStore, LRUCache<string, true>>()

function keysOf(store: FragmentStore): LRUCache<string, true> {
  let found = keys.get(store)
  if (!found)
    keys.set(
      store,
      (found = new LRUCache({ max: MOST, dispose: (_, key, why) => why === 'evict' && store.drop(key) })),
    )
  return found
}

/** The moment before anything is read that decides whether an address has a page. */
export interface Since {
  /** The generation of the store. */
  generation: number
  /** In milliseconds of the store's clock. */
  now: number
  /** As `performance.now()` tells it. */
  moment: number
}

export class MissingCopy {
  readonly since: Since
  readonly #page: PageRequest

  private constructor(page: PageRequest) {
    const { ports } = page
    this.#page = page
    this.since = {
      generation: ports.fragments.generation,
      now: ports.clock().getTime(),
      moment: performance.now(),
    }
  }

  /** @returns undefined if no copy can answer a request, or may be made of its answer */
  static of(page: PageRequest): MissingCopy | undefined {
    const { ports, request, path, query, tracer } = page
    const isReading = request.method === 'GET' || request.method === 'HEAD'
    if (!isReading || request.as !== 'reader' || request.accepts !== 'html' || request.sparing)
      return undefined
    if (!ports.trustsCopies || tracer.isRecording || path.length + query.length > LONGEST) return undefined
    return new MissingCopy(page)
  }

  /** Describes in a walk what other requests get. */
  static describe(page: PageRequest): string {
    const { ports, request } = page
    if (!ports.keepsFragments || request.as !== 'reader' || request.accepts !== 'html')
      return 'No copy of this answer is used.'
    return new MissingCopy(page).isStored
      ? 'Readers get a copy of this answer until any content changes. The walk renders it again.'
      : 'No copy of this answer is stored now. Of answers for addresses without a page, the 200 that were used last are kept.'
  }

  /** Resolves when the rendering in progress ends; undefined if there is none. */
  get rendering(): Promise<void> | undefined {
    return renderingOf(this.#page.ports.fragments, this.#key)
  }

  /** Registers a rendering. @returns a function to call when it ends */
  begin(): () => void {
    return beginRendering(this.#page.ports.fragments, this.#key)
  }

  get #key(): string {
    const { site, path, query } = this.#page
    return `${NAME} ${query === '' ? path : `${path}?${query}`} #${site.version}`
  }

  take(): BlogResponse | undefined {
    const { ports } = this.#page
    // Every request comes by here.
    if (keysOf(ports.fragments).size === 0) return undefined
    const now = ports.clock().getTime()
    const copy = ports.fragments.get(this.#key, now)
    if (!copy?.answer) return undefined
    keysOf(ports.fragments).get(this.#key)
    countsOf(ports.fragments).note(NAME, 'hit', now)
    return this.#answer(copy, now, 'hit')
  }

  get isStored(): boolean {
    const { fragments, clock } = this.#page.ports
    return fragments.get(this.#key, clock().getTime()) !== undefined
  }

  /** Makes a copy of the 404 page, which the session stores. */
  keep(
    session: FragmentSession,
    html: string,
    { reads, dependence }: { reads: PlaceCounts; dependence: Dependence },
  ): BlogResponse | undefined {
    // For a form there would have to be a post.
    if (PLACES.some((one) => reads[one] > 0)) return undefined
    const headers = pageHeaders(this.#page.site.definition)
    const copy = this.#kept(session, html, dependence, { status: 404, headers })
    return this.#answer(copy, session.now, 'miss')
  }

  /** Makes a copy of an answer that needs no template, and stores it. */
  async keepAnswer(response: BlogResponse): Promise<BlogResponse> {
    const { ports } = this.#page
    const session = new FragmentSession(ports.fragments, this.since.now, this.since.generation)
    session.open()
    this.#kept(session, response.body, ALL_ADDRESSES, response)
    session.commit((await ports.nextDue(this.since.moment)).at)
    return response
  }

  #kept(
    session: FragmentSession,
    text: string,
    dependence: Dependence,
    { status, headers }: { status: number; headers: Record<string, string> },
  ): Copy {
    const { ports, site, path, query } = this.#page
    const answer = {
      status,
      headers,
      tag: tagOf(text),
      modified: new Date(session.now).toUTCString(),
      target: query === '' ? path : `${path}?${query}`,
      uses: 0,
      places: [],
      formOf: null,
    }
    keysOf(ports.fragments).set(this.#key, true)
    return session.keepPage(
      { key: this.#key, name: NAME, rule: pageRule(site.definition.cache, NOT_FOUND) },
      [text],
      answer,
      // Whatever the page shows: a row that gets this address replaces it.
      joinDependences([dependence, ALL_ADDRESSES]),
      // Any route may get this address.
      new Map([[NAME, site.version]]),
    )
  }

  #answer(copy: Copy, now: number, outcome: 'hit' | 'miss'): BlogResponse | undefined {
    const { answer, content, madeAt, expiresAt } = copy
    if (!answer) return undefined
    const { ports, site, request } = this.#page
    const elsewhere = outcome === 'hit' ? edgeLifetimeNow(ports, site) : 0
    if (outcome === 'hit') answer.uses++
    const { body, encoded } = filled({ ...ports, site }, request, { ...copy, content, answer }, (bytes) =>
      ports.fragments.grow(this.#key, copy, bytes),
    )
    const age = Math.max(0, Math.floor((now - madeAt) / 1_000))
    return {
      status: answer.status,
      headers: {
        ...answer.headers,
        ...(outcome === 'hit' ? hitFields(age, Math.floor((expiresAt - now) / 1_000)) : {}),
        ...(elsewhere > 0 ? edgeFields(copy, elsewhere, now) : {}),
      },
      body,
      encoded,
      copy: outcome,
      route: null,
      fragments: [],
    }
  }
}
