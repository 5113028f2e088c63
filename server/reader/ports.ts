/** Ports of the running blog, in addition to those in `server/publish/ports.ts`. */
import type { Queryable } from '../store/connection.ts'
import type { NotFoundAddresses } from './addresses/not-found-addresses.ts'
import type { AnswerPorts } from './answer.ts'
import type { Traffic } from './traffic.ts'

/** Answers requests without stored fragments, optionally on another connection. */
export interface UncachedPort {
  withoutFragments(pool?: Queryable): AnswerPorts
}

/** The addresses that were answered with 404. */
export interface NotFoundPort {
  readonly notFound: NotFoundAddresses
}

/** The most recent requests. */
export interface TrafficPort {
  readonly traffic: Traffic
}

export interface ImageFile {
  type: string
  bytes: Buffer<ArrayBuffer>
  sha256: string
}

/** Images as they are served, by name. Whoever changes an image deletes it from here. */
export interface ImagesPort {
  readonly images: {
    get(name: string): ImageFile | undefined
    set(name: string, image: ImageFile): unknown
    delete(name: string): boolean
  }
}
