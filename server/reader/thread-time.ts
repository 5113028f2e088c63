/** The processor time of the current thread. Worker threads of the process have their own. */
import { readFileSync } from 'node:fs'

/** Nanoseconds on the processor, nanoseconds in the queue, and time slices (proc_pid_schedstat, Linux). */
const SCHEDSTAT = '/proc/thread-self/schedstat'

/** Returns the processor time of the thread in milliseconds, or of the process where the system does not tell threads apart. */
export function threadTime(): number {
  try {
    const nanoseconds = Number(readFileSync(SCHEDSTAT, 'utf8').split(' ')[0])
    if (nanoseconds > 0) return nanoseconds / 1_000_000
  } catch {
    // Other systems, and kernels without scheduler statistics.
  }
  const { user, system } = process.cpuUsage()
  return (user + system) / 1_000
}
