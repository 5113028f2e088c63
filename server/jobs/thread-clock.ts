/** The processor time of threads, which other threads of the process can read (Linux). */
import { readFileSync, readlinkSync } from 'node:fs'

/** Returns the file that tells the processor time of the current thread; null on systems without one. */
export function ownClock(): string | null {
  try {
    // e.g. `123/task/456`
    const clock = `/proc/${readlinkSync('/proc/thread-self')}/schedstat`
    return timeOn(clock) === undefined ? null : clock
  } catch {
    return null
  }
}

/**
 * Returns the processor time of a thread in milliseconds; undefined if the system does not tell.
 * @param clock a result of `ownClock`: nanoseconds on the processor, in the queue, and time slices (proc_pid_schedstat)
 */
export function timeOn(clock: string): number | undefined {
  try {
    const [nanoseconds] = readFileSync(clock, 'utf8').split(' ')
    return Number(nanoseconds) > 0 ? Number(nanoseconds) / 1_000_000 : undefined
  } catch {
    return undefined
  }
}
