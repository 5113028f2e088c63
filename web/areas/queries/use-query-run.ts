/** Runs the typed query, saved or not, and explains its plan. */
import { keepPreviousData } from '@tanstack/react-query'
import { useDeferredValue, useEffect, useState } from 'react'
import type { BodyOf } from '../../../contract/operations.ts'
import { useRead } from '../../api/queries.ts'

export type RunRequest = BodyOf<'POST /api/query/run'>

/** How long a value must stay the same, in milliseconds. */
const DELAY = 250

/** Returns the value once it has stopped changing. */
export function useDebounced<T>(value: T): T {
  const [debounced, setDebounced] = useState(value)
  const key = JSON.stringify(value)
  useEffect(() => {
    const timer = setTimeout(() => setDebounced(JSON.parse(key) as T), DELAY)
    return () => clearTimeout(timer)
  }, [key])
  return debounced
}

export function useQueryRun(request: RunRequest) {
  const body = useDebounced(request)
  const isReady = body.text.trim() !== ''
  const options = { placeholderData: keepPreviousData, staleTime: 0, retry: false } as const
  const rows = useRead('POST /api/query/run', { body }, { ...options, enabled: isReady })
  const isRunnable = useDeferredValue(rows.data !== undefined && rows.data.statements.length > 0)
  const plan = useRead('POST /api/query/plan', { body }, { ...options, enabled: isReady && isRunnable })
  return { rows, plan }
}
