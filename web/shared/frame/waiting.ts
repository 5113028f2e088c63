/** How many comments wait, live. */
import { openStream } from '../../api/live.ts'
import { useEffect } from 'react'
import { useQueryClient } from '@tanstack/react-query'
import { invalidateComments, useRead } from '../../api/queries.ts'

/** When the stream of changes is opened, in milliseconds after the workbench. */
const LATER = 2_000

/** Reads comments again whenever one was changed, by anybody. */
export function useWaiting(): number {
  const client = useQueryClient()
  const { data } = useRead('GET /api/comments/waiting', {})
  useEffect(() => {
    let source: ReturnType<typeof openStream> | undefined
    // What the screen itself reads comes first.
    const timer = setTimeout(() => {
      source = openStream('/api/comments/stream')
      // Also once it is open, and after a break: something may have been missed.
      for (const event of ['hello', 'changed'])
        source.addEventListener(event, () => void invalidateComments(client))
    }, LATER)
    return () => {
      clearTimeout(timer)
      source?.close()
    }
  }, [client])
  return data?.waiting ?? 0
}
