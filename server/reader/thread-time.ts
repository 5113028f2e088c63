/** The processor time of the current thread. Worker threads of the process have their own. */
import { timeOn } from '../jobs/thread-clock.ts'

/** Returns the processor time of the thread in milliseconds, or of the process where the system does not tell threads apart. */
export function threadTime(): number {
  const own = timeOn('/proc/thread-self/schedstat')
  if (own !== undefined) return own
  const { user, system } = process.cpuUsage()
  return (user + system) / 1_000
}
