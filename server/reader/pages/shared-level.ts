/**
 * Shares copies of pages between processes. A process takes a copy only while it holds a lease, so that it knows all
 * acknowledged changes, and only if no change that the copy may lack affects it. So shared copies need no purge.
 */
import { RememberedChanges, type EarlierChange } from '../../../core/caching/remembered-changes.ts'
import {
  fromShared,
  toShare,
  type SharedCopies,
  type SharedCopy,
} from '../../../core/caching/shared-copies.ts'
import type { Copy } from '../../../core/caching/store.ts'
import type { ClockPort, LogPort, SitePort } from '../../publish/ports.ts'
import type { DueTime } from '../../store/content/posts.ts'
import type { FragmentPort } from '../page-request.ts'
import type { SeenState, SharedPort } from './shared-port.ts'

export interface SharedCounts {
  taken: number
  /** Not found. */
  missing: number
  /** Found, but possibly stale. */
  refused: number
  put: number
}

/** The maximum number of concurrent puts. Further ones are skipped. */
const MOST_PUTS = 100

type Ports = Pick<FragmentPort, 'fragments' | 'trustsCopies' | 'nextDue'> & ClockPort & SitePort & LogPort

export class SharedLevel implements SharedPort {
  readonly #store: SharedCopies
  readonly #ports: Ports
  readonly #changes = new RememberedChanges()
  #seen: SeenState | undefined
  #putting = 0
  readonly counts: SharedCounts = { taken: 0, missing: 0, refused: 0, put: 0 }

  constructor(store: SharedCopies, ports: Ports) {
    this.#store = store
    this.#ports = ports
  }

  get seen(): SeenState | undefined {
    return this.#seen
  }

  get isAvailable(): boolean {
    return this.#store.isAvailable
  }

  get changes(): Pick<RememberedChanges, 'add' | 'forget'> {
    return this.#changes
  }

  /** Records a reading of the change log after its changes were applied. */
  read(state: SeenState): void {
    this.#seen = state
    this.#changes.seen(state.snapshot)
  }

  /** Adds changes from before the log was followed, so that older copies can be taken. */
  addEarlier(from: string, earlier: readonly EarlierChange[]): void {
    this.#changes.addEarlier(from, earlier)
  }

  async take(key: string): Promise<Copy | undefined> {
    const found = await this.#store.take(key).catch((error: unknown) => this.#failed(error))
    if (!found) {
      this.counts.missing++
      return undefined
    }
    const { shared, age } = found
    const due = shared.due === undefined ? undefined : await this.#ports.nextDue(performance.now())
    // From here on there is no `await`, so no change is applied in between.
    const now = this.#ports.clock().getTime()
    const copy = fromShared(shared.copy, now - age)
    if (copy.expiresAt <= now || !this.#isStillRight(shared, due, now)) {
      this.counts.refused++
      return undefined
    }
    const { fragments } = this.#ports
    fragments.set(key, copy, fragments.generation)
    this.counts.taken++
    return copy
  }

  #isStillRight(
    { copy, snapshot, era, due: wanted }: SharedCopy,
    due: DueTime | undefined,
    now: number,
  ): boolean {
    const { trustsCopies, site } = this.#ports
    if (!trustsCopies || era !== this.#seen?.era) return false
    if (due && (due.post !== wanted || due.at <= now)) return false
    for (const [part, state] of copy.parts) if (site.parts.state(part) !== state) return false
    return this.#changes.isStillRight(copy.dependence, snapshot)
  }

  put(key: string, copy: Copy, { snapshot, era }: SeenState, due: DueTime | undefined): void {
    const now = this.#ports.clock().getTime()
    const lifetime = Math.max(copy.staleUntil, copy.expiresAt) - now
    if (lifetime <= 0 || this.#putting >= MOST_PUTS) return
    this.#putting++
    const shared = { copy: toShare(copy, now), snapshot, era, due: due?.post }
    // After the response.
    Promise.resolve()
      .then(() => this.#store.put(key, shared, lifetime))
      .then(
        (isStored) => (this.counts.put += Number(isStored)),
        (error: unknown) => this.#failed(error),
      )
      .finally(() => this.#putting--)
  }

  drop(key: string): Promise<void> {
    return this.#store.drop(key)
  }

  clear(): Promise<void> {
    return this.#store.clear()
  }

  close(): Promise<void> {
    return this.#store.close()
  }

  #failed(error: unknown): undefined {
    this.#ports.log.error({ error: String(error) }, 'a shared copy could not be written or read')
  }
}
