/** A query being tried: as it is typed, with some parameters, on a page, as somebody. */
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useDeferredValue, useEffect, useState } from 'react'
import type { BodyOf } from '../../../contract/operations.ts'
import { call } from '../../api/client.ts'

export type Trial = BodyOf<'POST /api/query/try'>

const AFTER_MILLISECONDS = 250

/** The value as it was when it last stood still for a moment. */
export function useSettled<T>(value: T): T {
  const [settled, setSettled] = useState(value)
  const key = JSON.stringify(value)
  useEffect(() => {
    const timer = setTimeout(() => setSettled(JSON.parse(key) as T), AFTER_MILLISECONDS)
    return () => clearTimeout(timer)
  }, [key])
  return settled
}

export function useTrial(trial: Trial) {
  const settled = useSettled(trial)
  const isReady = settled.text.trim() !== ''
  const rows = useQuery({
    queryKey: ['query-trial', settled],
    queryFn: () => call('POST /api/query/try', { body: settled }),
    enabled: isReady,
    placeholderData: keepPreviousData,
    staleTime: 0,
    retry: false,
  })
  const isRunnable = useDeferredValue(rows.data !== undefined && rows.data.statements.length > 0)
  const plan = useQuery({
    queryKey: ['query-plan', settled],
    queryFn: () => call('POST /api/query/plan', { body: settled }),
    enabled: isReady && isRunnable,
    placeholderData: keepPreviousData,
    staleTime: 0,
    retry: false,
  })
  return { rows, plan }
}
