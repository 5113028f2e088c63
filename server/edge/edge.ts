/** The cache elsewhere of a blog: whether it is used, which cache.yaml decides, and what the workbench shows of it. */
import { edgeLifetime } from '../../core/caching/rules.ts'
import type { ChangePort, LogPort, PoolPort, SitePort } from '../publish/ports.ts'
import type { PurgeTarget } from './purge-calls.ts'
import { EdgePurger, type PurgerState } from './purger.ts'

/** How long to wait before purging everything is tried again, in milliseconds, once the cache is no longer used. */
const AGAIN = 1_000

export class EdgeService {
  readonly #blog: PoolPort & LogPort & SitePort & ChangePort
  readonly #url: string
  readonly #target: PurgeTarget
  #purger: EdgePurger | undefined
  #adjusting: Promise<void> = Promise.resolve()
  #unwatch: (() => void) | undefined
  #isStopped = false

  /** @param url of the database */
  constructor(blog: PoolPort & LogPort & SitePort & ChangePort, url: string, target: PurgeTarget) {
    this.#blog = blog
    this.#url = url
    this.#target = target
  }

  /** Uses the cache while the definition says so. */
  async start(): Promise<void> {
    this.#unwatch = this.#blog.watchChanges((what) => {
      if (what === 'definition') this.#adjust()
    })
    this.#adjust()
    await this.#adjusting
  }

  async stop(): Promise<void> {
    this.#isStopped = true
    this.#unwatch?.()
    await this.#adjusting
    await this.#purger?.stop()
    this.#purger = undefined
  }

  /** null while the cache is not used. */
  get state(): PurgerState | null {
    return this.#purger?.state ?? null
  }

  /** Drops everything that it keeps. @returns whether it has confirmed that */
  async clear(): Promise<boolean> {
    return (await this.#purger?.clear()) ?? false
  }

  get #isUsed(): boolean {
    return edgeLifetime(this.#blog.site.definition.cache) > 0
  }

  /** Adjustments follow one another. */
  #adjust(): void {
    this.#adjusting = this.#adjusting
      .then(() => this.#adjustNow())
      .catch((error: unknown) =>
        this.#blog.log.error({ error: String(error) }, 'the edge cache cannot be followed'),
      )
  }

  async #adjustNow(): Promise<void> {
    if (this.#isStopped || this.#isUsed === (this.#purger !== undefined)) return
    if (!this.#purger) {
      const purger = new EdgePurger(
        { pool: this.#blog.pool, url: this.#url, log: this.#blog.log },
        this.#target,
      )
      await purger.start()
      this.#purger = purger
    } else if (await this.#purger.clear()) {
      await this.#purger.stop()
      this.#purger = undefined
    } else {
      // It still keeps pages, of which it must be told.
      setTimeout(() => this.#adjust(), AGAIN).unref()
    }
  }
}
