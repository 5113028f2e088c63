/** The running blog: the definition in force, the database behind it, the fragments kept, who asked for what. */
import { LRUCache } from 'lru-cache'
import type { DataSource } from 'typeorm'
import { purgeTags, type Change, type PurgeReason } from '../../core/caching/purge.ts'
import { ProcessFragmentStore, type FragmentStore } from '../../core/caching/store.ts'
import type { SourceName } from '../../core/shapes/schemas.ts'
import { buildPath, type BuildResult } from '../../core/routing/addresses/build.ts'
import { poolOf, type Queryable } from '../store/connection.ts'
import { passingKey } from './cursor-key.ts'
import type { Log } from '../publish/ports.ts'
import type { Site } from '../publish/site.ts'
import { Traffic } from './traffic.ts'
import { UnansweredAddresses } from './addresses/unanswered.ts'

/** Bytes of kept fragments. */
const FRAGMENT_BYTES = 32 * 1024 * 1024
/** Bytes of images at hand. */
const IMAGE_BYTES = 64 * 1024 * 1024

export interface ImageFile {
  type: string
  bytes: Buffer<ArrayBuffer>
  sha256: string
}

export interface BlogOptions {
  database: DataSource
  site: Site
  log: Log
  clock?: () => Date
  /** `off`: every part is made anew for every request. */
  fragments?: FragmentStore | 'off'
  /** Where readers' queries run; else the database's own pool. */
  pool?: Queryable
  /** What cursors are signed with; else a key that ends with this object. */
  cursorKey?: Uint8Array
}

export class Blog {
  readonly database: DataSource
  readonly pool: Queryable
  readonly fragments: FragmentStore
  readonly keepsFragments: boolean
  readonly traffic = new Traffic()
  readonly unanswered: UnansweredAddresses
  readonly log: Log
  readonly clock: () => Date
  /** Signs cursors. */
  readonly cursorKey: Uint8Array
  #site: Site
  /** Images by name, as they are served; whoever changes one takes it out. */
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
    cursorKey = passingKey(),
  }: BlogOptions) {
    this.database = database
    this.pool = pool
    this.unanswered = new UnansweredAddresses(this.pool)
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

  /** The next request runs the new definition; copies made by the old one are never asked for again. */
  replaceSite(site: Site): void {
    this.#site = site
    this.fragments.clear()
    for (const tell of this.#watchers) tell('definition')
  }

  /** @param told what was changed: rows of a source, or the definition. @returns a function that ends the watch */
  watchChanges(told: (what: SourceName | 'definition') => void): () => void {
    this.#watchers.add(told)
    return () => this.#watchers.delete(told)
  }

  /** The origin readers know the blog by, when the definition says one. */
  get publicOrigin(): string | undefined {
    return this.#site.definition.settings.origin
  }

  addressOf(site: Site, route: string, parameters: Record<string, unknown>): BuildResult {
    const compiled = site.definition.routes.find((one) => one.route.name === route)
    return compiled
      ? buildPath(compiled, parameters, site.definition.policy)
      : { ok: false, message: `there is no route “${route}”` }
  }

  /** Call after the change is committed and before its author is answered. @returns what was purged, and why */
  changed(change: Change): { reasons: PurgeReason[]; dropped: string[] } {
    const reasons = purgeTags(change, this.#site.definition.queries.values())
    for (const tell of this.#watchers) tell(change.source)
    return { reasons, dropped: this.fragments.purge(reasons.map((one) => one.tag)) }
  }

  /**
   * When the next scheduled post comes due, in the clock of the fragment store; Infinity when none is scheduled.
   * Read by the database's clock, remembered until a purge or the due time itself.
   */
  async nextDue(): Promise<number> {
    const now = this.clock().getTime()
    const { generation } = this.fragments
    if (this.#due && this.#due.generation === generation && this.#due.at > now) return this.#due.at
    const { rows } = await this.pool.query<{ wait: string | null }>(
      'SELECT extract(epoch FROM min(published_at) - now()) * 1000 AS wait FROM post WHERE published_at > now()',
    )
    const wait = rows[0]?.wait
    const at = wait === null || wait === undefined ? Infinity : now + Number(wait)
    this.#due = { at, generation }
    return at
  }
}
