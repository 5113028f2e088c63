/** A request for a page, with the ports and the values that answering it needs. */
import type { DueTime } from '../store/content/posts.ts'
import type { SharedPort } from './pages/shared-port.ts'
import type { FragmentStore } from '../../core/caching/store.ts'
import type { MatchedParameter } from '../../core/routing/addresses/match.ts'
import type { SlugKind } from '../../core/shapes/content-kinds.ts'
import type { Route } from '../../core/shapes/schemas.ts'
import type {
  ClockPort,
  CursorKeyPort,
  DatabasePort,
  LogPort,
  CommentServicePort,
  OriginsPort,
  PoolPort,
  SearchPort,
} from '../publish/ports.ts'
import type { FormState } from './comments/form.ts'
import type { Site } from '../publish/site.ts'
import type { BlogRequest } from './request.ts'
import type { Tracer } from './tracer.ts'

/** Holds the copies of fragments. */
export interface FragmentPort {
  readonly fragments: FragmentStore
  /** Whether copies are kept at all. */
  readonly keepsFragments: boolean
  /** Whether stored fragments are used, now. */
  readonly trustsCopies: boolean
  /** Resolves once every acknowledged write is seen, as far as the database answers; undefined if that is so already. */
  untilCurrent(): Promise<void> | undefined
  /** Whether this process may lack an acknowledged write although the database is there. Then it answers 503. */
  readonly isBehind: boolean
  /** Whether no connection to the database can be made. Then stored copies are served, and marked. */
  readonly isDatabaseAway: boolean
  /** Whether the edge cache is being purged, so that it may store pages. */
  readonly purgesEdge: boolean
  /**
   * Returns when the next scheduled post becomes due after rows were read, in milliseconds of the store's clock.
   * @param begun the time before the first row was read, as `performance.now()` tells it
   */
  nextDue(begun: number): Promise<DueTime>
  /** Copies that processes share; undefined without a shared store. */
  readonly shared: SharedPort | undefined
}

/** What building a page uses. */
export type PagePorts = PoolPort &
  DatabasePort &
  ClockPort &
  CursorKeyPort &
  FragmentPort &
  LogPort &
  OriginsPort &
  CommentServicePort &
  SearchPort

/** A request that is being answered, with everything that was derived from it once. */
export interface PageRequest {
  ports: PagePorts
  site: Site
  request: BlogRequest
  /** The canonical path without a trailing slash, which patterns match. */
  path: string
  /** The path as readers see it, by the address policy. */
  shownPath: string
  /** The query string without “?”. */
  query: string
  /** The query string, parsed. */
  search: URLSearchParams
  tracer: Tracer
  form?: FormState
}

export interface RouteInForce {
  route: Pick<Route, 'name' | 'path' | 'data' | 'heading' | 'query'>
  parameters: readonly MatchedParameter[]
  /** Which of its data only templates see. */
  shared: ReadonlySet<string>
}

/** A value of the address that identifies no row. A row may have had it before. */
export interface MissedSlug {
  kind: SlugKind
  slug: string
  /** The parameter that has the slug. */
  parameter: string
}

export type Ending =
  | { outcome: 'not-found' | 'next-route'; missed?: MissedSlug }
  /** The same page has another address. */
  | { outcome: 'elsewhere'; to: string }
