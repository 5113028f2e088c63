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
 * Runs a computation in slices, and pauses between them.
 * @param pause lets others run
 * @param clock in milliseconds
 */
export async function inSlices<T>(
  steps: InSteps<T>,
  pause: () => Promise<unknown>,
  clock: () => number,
): Promise<T> {
  for (let start = clock(); ;) {
    const { done, value } = steps.next()
    if (done) return value
    if (clock() - start < SLICE) continue
    await pause()
    start = clock()
  }
}
