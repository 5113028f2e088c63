/** Measuring as the blog grows: what was found, and how one is going; of one query, or of all. */
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { call } from '../../api/client.ts'

const WHILE_RUNNING_MILLISECONDS = 500
const KEY = 'growth'

export type Sizes = (1_000 | 10_000 | 100_000 | 1_000_000)[]

export function useGrowth(query?: string) {
  const client = useQueryClient()
  const report = useQuery({
    queryKey: [KEY, query ?? null],
    queryFn: () => call('GET /api/growth', { query: query === undefined ? {} : { query } }),
    staleTime: 0,
    refetchInterval: ({ state }) => (state.data?.running ? WHILE_RUNNING_MILLISECONDS : false),
  })
  const again = { onSettled: () => client.invalidateQueries({ queryKey: [KEY] }) }
  const start = useMutation({
    mutationFn: ({ queries, sizes }: { queries: string[]; sizes: Sizes }) =>
      call('POST /api/growth', { body: { queries, sizes } }),
    ...again,
  })
  const stop = useMutation({ mutationFn: () => call('DELETE /api/growth', {}), ...again })
  const accept = useMutation({
    mutationFn: ({ text, version }: { text: string; version: number }) =>
      call('PUT /api/document', { body: { path: 'indexes.yaml', text, version } }),
    onSettled: async () => {
      await client.invalidateQueries({ queryKey: [KEY] })
      await client.invalidateQueries({ queryKey: ['documents'] })
      await client.invalidateQueries({ queryKey: ['indexes'] })
    },
  })
  return { report, start, stop, accept }
}
