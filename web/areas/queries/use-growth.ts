/** Measurements of queries while the blog grows: their results, and the current one. */
import { useMutation } from '@tanstack/react-query'
import { useRead, useWrite } from '../../api/queries.ts'

/** How often the progress is read, in milliseconds. */
const INTERVAL = 500

export type Sizes = (1_000 | 10_000 | 100_000 | 1_000_000)[]

/** @param query only this query; all queries if absent */
export function useGrowth(query?: string) {
  const write = useWrite()
  const report = useRead(
    'GET /api/growth',
    { query: query === undefined ? {} : { query } },
    { staleTime: 0, refetchInterval: ({ state }) => (state.data?.running ? INTERVAL : false) },
  )
  const start = useMutation({
    mutationFn: (body: { queries: string[]; sizes: Sizes }) => write('POST /api/growth', { body }),
  })
  const cancel = useMutation({ mutationFn: () => write('DELETE /api/growth', {}) })
  return { report, start, cancel }
}
