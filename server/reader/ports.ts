/** Ports of the running blog, in addition to those in `server/publish/ports.ts`. */
import type { FragmentStore } from '../../core/caching/store.ts'
import type { Rehearsal, Store } from '../store/store.ts'
import type { Queryable } from '../store/connection.ts'
import type { NotFoundAddresses } from './addresses/not-found-addresses.ts'
import type { Site } from '../publish/site.ts'
import type { AnswerPorts } from './answer.ts'
import type { ImageCache } from './images/image-cache.ts'
import type { Traffic } from './traffic.ts'

/** Answers requests with a store of its own, optionally with another connection or definition. */
export interface ScratchPort {
  withCopies(store: FragmentStore, instead?: { pool?: Queryable; site?: Site }): AnswerPorts
}

/** Answers requests without stored fragments, optionally with another connection, definition or clock. */
export interface UncachedPort {
  withoutFragments(instead?: {
    pool?: Queryable
    site?: Site
    clock?: () => Date
  }): AnswerPorts & UncachedPort & NotFoundPort & RehearsalPort & ScratchPort & ImagesPort
}

/** Answers requests in a transaction that is rolled back. */
export interface RehearsalPort {
  readonly store: Store
  rehearsing(inside: Rehearsal): AnswerPorts
}

/** The addresses that were answered with 404. */
export interface NotFoundPort {
  readonly notFound: NotFoundAddresses
}

/** The most recent requests. */
export interface TrafficPort {
  readonly traffic: Traffic
}

/** Images as they are served. */
export interface ImagesPort {
  readonly images: ImageCache
}
