/** Waits for an answer from another program. */
import { setImmediate, setTimeout } from 'node:timers/promises'

/**
 * Returns what is answered. An answer that arrived while this process was busy is no late one: it is read first.
 * @param run gets a signal that is aborted when the time is over
 * @param longest in milliseconds
 * @throws if there is no answer in time
 */
export async function inTime<T>(run: (late: AbortSignal) => Promise<T>, longest: number): Promise<T> {
  const [answered, late] = [new AbortController(), new AbortController()]
  const timer = setTimeout(longest, undefined, { ref: false, signal: answered.signal }).then(async () => {
    // Sockets are read between timers and the first of these, and a body may follow its header.
    await setImmediate()
    await setImmediate()
    throw new Error(`It has not answered within ${longest} ms.`)
  })
  try {
    return await Promise.race([run(late.signal), timer])
  } finally {
    answered.abort()
    late.abort()
  }
}
