/** The time of day as it was at the start, plus the time since: setting the computer's clock does not change it. */
export class SteadyClock {
  #startOfTime = Date.now() - performance.now()

  readonly now = (): Date => new Date(this.#startOfTime + performance.now())

  /** Takes over the computer's time of day. */
  reset(): void {
    this.#startOfTime = Date.now() - performance.now()
  }
}
