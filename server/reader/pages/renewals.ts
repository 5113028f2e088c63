/** Renders purged pages again that readers keep asking for, the most wanted first, while nobody waits for them. */
import { setTimeout } from 'node:timers/promises'
import type { DroppedCopy } from '../../../core/caching/store.ts'

/** A page that was asked for less often since it was made is rendered when a reader asks. */
const WANTED = 2
/** The most wanted pages that are remembered. */
const MOST = 500

export class Renewals {
  readonly #render: (target: string) => Promise<unknown>
  /** Address → how often it was asked for. */
  #wanted = new Map<string, number>()
  #running: Promise<void> | undefined
  #isStopped = false

  /** @param render requests an address as a reader, which stores its page */
  constructor(render: (target: string) => Promise<unknown>) {
    this.#render = render
  }

  /** Remembers those of the dropped copies that readers want. */
  add(dropped: readonly DroppedCopy[]): void {
    for (const { target, uses = 0 } of dropped)
      if (target !== undefined && uses >= WANTED)
        this.#wanted.set(target, Math.max(uses, this.#wanted.get(target) ?? 0))
    if (this.#wanted.size > MOST)
      this.#wanted = new Map([...this.#wanted].sort(([, a], [, b]) => b - a).slice(0, MOST))
    if (this.#wanted.size > 0 && !this.#isStopped) this.#running ??= this.#run()
  }

  /** Resolves once nothing is left to render. */
  async finished(): Promise<void> {
    await this.#running
  }

  async stop(): Promise<void> {
    this.#isStopped = true
    this.#wanted.clear()
    await this.#running
  }

  async #run(): Promise<void> {
    // The write that purged the copies is answered first.
    await setTimeout(0)
    for (;;) {
      const target = this.#mostWanted()
      if (target === undefined || this.#isStopped) break
      this.#wanted.delete(target)
      const start = performance.now()
      // A reader who asks for the page gets, and logs, the same error.
      await this.#render(target).catch(() => undefined)
      // As long as it took, so that readers have half of the processor at least.
      await setTimeout(performance.now() - start)
    }
    this.#running = undefined
  }

  #mostWanted(): string | undefined {
    let most: string | undefined
    let uses = -1
    for (const [target, one] of this.#wanted) if (one > uses) [most, uses] = [target, one]
    return most
  }
}
