/** Starts and stops the purger of the edge cache, as cache.yaml says. */
import { edgeLifetime } from '../../core/caching/rules.ts'
import type { ChangePort, LogPort, PoolPort, SitePort } from '../publish/ports.ts'
import type { PurgeTarget } from './purge-calls.ts'
import { EdgePurger, type PurgerState } from './purger.ts'

/** The wait before another attempt, in milliseconds. */
const RETRY = 1_000

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

  /** Follows the definition from now on. */
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

  /** The state of the purger; null while the edge cache is off. */
  get state(): PurgerState | null {
    return this.#purger?.state ?? null
  }

  /** Purges everything. @returns whether the edge cache has confirmed it */
  async clear(): Promise<boolean> {
    return (await this.#purger?.clear()) ?? false
  }

  get #isUsed(): boolean {
    return edgeLifetime(this.#blog.site.definition.cache) > 0
  }

  /** Adjustments run one at a time. */
  #adjust(): void {
    this.#adjusting = this.#adjusting
      .then(() => this.#adjustNow())
      .catch((error: unknown) => {
        this.#blog.log.error({ error: String(error) }, 'cannot start or stop purging the edge cache')
        this.#retry()
      })
  }

  async #adjustNow(): Promise<void> {
    if (this.#isStopped || this.#isUsed === (this.#purger !== undefined)) return
    if (!this.#purger) {
      const purger = new EdgePurger(
        { pool: this.#blog.pool, url: this.#url, log: this.#blog.log },
        this.#target,
      )
      this.#purger = purger
      try {
        await purger.start()
      } catch (error) {
        this.#purger = undefined
        await purger.stop()
        throw error
      }
    } else if (await this.#purger.clear()) {
      await this.#purger.stop()
      this.#purger = undefined
    } else {
      // It still stores pages.
      this.#retry()
    }
  }

  #retry(): void {
    setTimeout(() => this.#adjust(), RETRY).unref()
  }
}
