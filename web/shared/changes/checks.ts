/** The report of the checks: read often while they run, and now and then otherwise. */
import { useRead } from '../../api/queries.ts'

/** Intervals in milliseconds. */
const WHILE_RUNNING = 400
const OTHERWISE = 4_000

export function useChecks() {
  const checks = useRead(
    'GET /api/checks',
    {},
    { refetchInterval: (query) => (query.state.data?.running ? WHILE_RUNNING : OTHERWISE) },
  )
  return { report: checks.data, error: checks.error }
}
