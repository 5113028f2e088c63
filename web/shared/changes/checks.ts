/** The report of the checks: read often while they run, and now and then otherwise. */
import type { CheckFinding } from '../../../contract/checks.ts'
import { useRead } from '../../api/queries.ts'

/** Intervals in milliseconds. */
const WHILE_RUNNING = 400
const OTHERWISE = 4_000

/**
 * Tries the fixes of a finding, and returns those that help. A fix that would cause another finding is not offered.
 * @param isWanted false to wait, because all checks run for each fix
 */
export function useFixes(
  { rule, subject, hasFixes }: Pick<CheckFinding, 'rule' | 'subject' | 'hasFixes'>,
  isWanted = true,
) {
  const tried = useRead(
    'GET /api/checks/fixes',
    { query: { rule, subject } },
    { enabled: hasFixes && isWanted, staleTime: Infinity, retry: false },
  )
  return {
    offered: tried.data?.offered ?? [],
    rejected: tried.data?.rejected ?? [],
    isTrying: tried.isFetching && !tried.data,
    error: tried.error,
    tryAgain: () => void tried.refetch(),
  }
}

export function useChecks() {
  const checks = useRead(
    'GET /api/checks',
    {},
    {
      refetchInterval: (query) =>
        query.state.data?.running || query.state.data?.browser.running ? WHILE_RUNNING : OTHERWISE,
    },
  )
  return { report: checks.data, error: checks.error }
}
