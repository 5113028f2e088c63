/** How many comments wait, live. */
import { useEffect } from 'react'
import { useQueryClient } from '@tanstack/react-query'
import { invalidateComments, useRead } from '../../api/queries.ts'

/** Reads comments again whenever one was changed, by anybody. */
export function useWaiting(): number {
  const client = useQueryClient()
  const { data } = useRead('GET /api/comments/waiting', {})
  useEffect(() => {
    const source = new EventSource('/api/comments/stream')
    source.addEventListener('changed', () => void invalidateComments(client))
    return () => source.close()
  }, [client])
  return data?.waiting ?? 0
}
