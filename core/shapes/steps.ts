/**
 * Long computations in steps: a generator that yields where it can pause. On the event loop of readers it runs in slices,
 * elsewhere to its end.
 */
export type InSteps<T> = Generator<undefined, T>

/** Runs a computation to its end. */
export function toItsEnd<T>(steps: InSteps<T>): T {
  for (;;) {
    const { done, value } = steps.next()
    if (done) return value
  }
}

/** How long one slice takes, in milliseconds. */
const SLICE = 2

/**
 * Runs a computation in slices, and pauses after each for as long as it took: a request consists of several parts that
 * wait for one another, and each of them would otherwise wait for a slice.
 * @param pause lets others run for a number of milliseconds
 * @param clock in milliseconds
 */
export async function inSlices<T>(
  steps: InSteps<T>,
  pause: (milliseconds: number) => Promise<unknown>,
  clock: () => number,
): Promise<T> {
  for (let start = clock(); ;) {
    const { done, value } = steps.next()
    if (done) return value
    const taken = clock() - start
    if (taken < SLICE) continue
    await pause(taken)
    start = clock()
  }
}
