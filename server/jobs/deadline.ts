/** The time limit of a question to a thread. */

/** How often a question is looked at that is late, in parts of its time. */
const LOOKS = 8

export interface Limit {
  milliseconds: number
  /**
   * How many times as long a question may take that has used less than half of the time on the processor, because the
   * machine is busy or the database is slow.
   */
  patience: number
}

/** Calls a function once a question has taken too long. */
export class Deadline {
  #timer: NodeJS.Timeout | undefined
  readonly #began = performance.now()

  /**
   * @param used returns the processor time of the thread in milliseconds; undefined if it is not known
   * @param late is given the time that the question has taken, in milliseconds
   */
  constructor(
    { milliseconds, patience }: Limit,
    used: () => number | undefined,
    late: (milliseconds: number) => void,
  ) {
    const before = patience > 1 ? used() : undefined
    const isWaiting = () => {
      const now = used()
      return before !== undefined && now !== undefined && now - before < milliseconds / 2
    }
    const look = () => {
      const taken = performance.now() - this.#began
      // Timers may be a millisecond early.
      if (taken < milliseconds * patience - 1 && isWaiting())
        this.#timer = setTimeout(look, milliseconds / LOOKS)
      else late(taken)
    }
    this.#timer = setTimeout(look, milliseconds)
  }

  clear(): void {
    clearTimeout(this.#timer)
  }
}
