/** What the checks found: asked for often while they run, now and then otherwise. */
import { useQuery } from '@tanstack/react-query'
import { call } from '../../api/client.ts'

const WHILE_RUNNING = 400
const OTHERWISE = 4_000

export function useChecks() {
  const checks = useQuery({
    queryKey: ['checks'],
    queryFn: () => call('GET /api/checks', {}),
    refetchInterval: (query) => (query.state.data?.running ? WHILE_RUNNING : OTHERWISE),
  })
  return { report: checks.data, error: checks.error }
}
