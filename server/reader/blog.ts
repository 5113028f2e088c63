/** The running blog: provides the ports through which everything else reaches the definition, the database and copies. */
import { LRUCache } from 'lru-cache'
import type { DataSource } from 'typeorm'
import { purgeTags, type Change } from '../../core/caching/purge.ts'
import { ProcessFragmentStore, type FragmentStore } from '../../core/caching/store.ts'
import type { SourceName } from '../../core/shapes/schemas.ts'
import type {
  ChangePort,
  ClockPort,
  CursorKeyPort,
  DatabasePort,
  Log,
  LogPort,
  PoolPort,
  PublishPort,
  SitePort,
  StorePort,
} from '../publish/ports.ts'
import type { Site } from '../publish/site.ts'
import { poolOf, type Queryable } from '../store/connection.ts'
import { millisecondsUntilDue } from '../store/content/posts.ts'
import { Store } from '../store/store.ts'
import { NotFoundAddresses } from './addresses/not-found-addresses.ts'
import { temporaryKey } from './cursor-key.ts'
import type { FragmentPort } from './page-data.ts'
import type { ImageFile, ImagesPort, NotFoundPort, TrafficPort, UncachedPort } from './ports.ts'
import { Traffic } from './traffic.ts'

/** The maximum size of all stored fragments, in bytes. */
const FRAGMENT_BYTES = 32 * 1024 * 1024
/** The maximum size of all images in memory, in bytes. */
const IMAGE_BYTES = 64 * 1024 * 1024

export interface BlogOptions {
  database: DataSource
  site: Site
  log: Log
  clock?: () => Date
  /** `off` to render every fragment for every request. */
  fragments?: FragmentStore | 'off'
  /** Runs readers' queries, instead of the database's own pool. */
  pool?: Queryable
  /** Signs cursors, instead of a key that is not stored. */
  cursorKey?: Uint8Array
}

export class Blog
  implements
    PoolPort,
    DatabasePort,
    StorePort,
    SitePort,
    PublishPort,
    ClockPort,
    LogPort,
    CursorKeyPort,
    ChangePort,
    FragmentPort,
    UncachedPort,
    NotFoundPort,
    TrafficPort,
    ImagesPort
{
  readonly database: DataSource
  readonly pool: Queryable
  readonly store: Store
  readonly fragments: FragmentStore
  readonly keepsFragments: boolean
  readonly traffic = new Traffic()
  readonly notFound: NotFoundAddresses
  readonly log: Log
  readonly clock: () => Date
  readonly cursorKey: Uint8Array
  #site: Site
  /** Images as they are served, by name. Whoever changes an image deletes it from here. */
  readonly images = new LRUCache<string, ImageFile>({
    maxSize: IMAGE_BYTES,
    sizeCalculation: (image) => image.bytes.byteLength + 200,
  })
  readonly #watchers = new Set<(what: SourceName | 'definition') => void>()
  #due: { at: number; generation: number } | undefined

  constructor({
    database,
    site,
    log,
    clock = () => new Date(),
    fragments = new ProcessFragmentStore(FRAGMENT_BYTES),
    pool = poolOf(database),
    cursorKey = temporaryKey(),
  }: BlogOptions) {
    this.database = database
    this.pool = pool
    this.store = new Store(database, (changes) => this.#purge(changes))
    this.notFound = new NotFoundAddresses(this.pool)
    this.keepsFragments = fragments !== 'off'
    this.fragments = fragments === 'off' ? new ProcessFragmentStore(1) : fragments
    this.log = log
    this.clock = clock
    this.cursorKey = cursorKey
    this.#site = site
  }

  get site(): Site {
    return this.#site
  }

  /** Returns the same blog without stored fragments, optionally on another connection. */
  withoutFragments(pool: Queryable = this.pool): Blog {
    const { database, site, log, clock, cursorKey } = this
    return new Blog({ database, site, log, clock, cursorKey, pool, fragments: 'off' })
  }

  /** Activates a definition: the next request uses it. Copies of the former one are dropped. */
  replaceSite(site: Site): void {
    this.#site = site
    this.fragments.clear()
    this.#tell('definition')
  }

  watchChanges(tell: (what: SourceName | 'definition') => void): () => void {
    this.#watchers.add(tell)
    return () => this.#watchers.delete(tell)
  }

  #tell(what: SourceName | 'definition'): void {
    for (const tell of this.#watchers) tell(what)
  }

  /** Drops the copies that depend on committed changes. @returns their keys */
  #purge(changes: readonly Change[]): string[] {
    const dropped = new Set<string>()
    for (const change of changes) {
      const tags = purgeTags(change, this.#site.definition.queries.values()).map((one) => one.tag)
      this.#tell(change.source)
      for (const key of this.fragments.purge(tags)) dropped.add(key)
    }
    return [...dropped]
  }

  /**
   * Returns when the next scheduled post becomes due, in milliseconds of the fragment store's clock; Infinity if none is
   * scheduled. It is read by the database's clock and kept until a purge or until the post is due.
   */
  async nextDue(): Promise<number> {
    const now = this.clock().getTime()
    const { generation } = this.fragments
    if (this.#due && this.#due.generation === generation && this.#due.at > now) return this.#due.at
    const at = now + (await millisecondsUntilDue(this.pool))
    this.#due = { at, generation }
    return at
  }
}
