/**
 * Reads and writes through the API with a cache. The key of a read is its operation with its input. A write invalidates
 * all reads, so no screen shows what was true before it.
 */
import {
  useQuery,
  useQueryClient,
  type QueryClient,
  type QueryKey,
  type UseQueryOptions,
  type UseQueryResult,
} from '@tanstack/react-query'
import { useCallback } from 'react'
import type { AnswerOf } from '../../contract/operations.ts'
import { call, type Input, type ReadName, type WriteName } from './client.ts'

/** Reads that stay as they are: a walk records a single request. */
const RECORDS: ReadonlySet<ReadName> = new Set(['GET /api/walk', 'GET /api/walk/plan'])

const readKey = <Name extends ReadName>(name: Name, input: Input<Name>): QueryKey => [name, input]

type Options<Name extends ReadName> = Omit<
  UseQueryOptions<AnswerOf<Name>, Error, AnswerOf<Name>>,
  'queryKey' | 'queryFn'
>

export const useRead = <Name extends ReadName>(
  name: Name,
  input: Input<Name>,
  options: Options<Name> = {},
): UseQueryResult<AnswerOf<Name>> =>
  useQuery({ queryKey: readKey(name, input), queryFn: () => call(name, input), ...options })

/**
 * Marks reads as outdated, and repeats those that are on the screen.
 * @param except operations whose reads stay
 */
export const invalidateReads = (client: QueryClient, except: readonly ReadName[] = []): Promise<void> =>
  client.invalidateQueries({
    predicate: ({ queryKey: [name] }) => !RECORDS.has(name as ReadName) && !except.includes(name as ReadName),
  })

/** Does so for reads of comments only. */
export const invalidateComments = (client: QueryClient): Promise<void> =>
  client.invalidateQueries({
    predicate: ({ queryKey: [name] }) => typeof name === 'string' && name.startsWith('GET /api/comment'),
  })

/** Stores what an operation would answer, so that it need not be read again. */
export const setRead = <Name extends ReadName>(
  client: QueryClient,
  name: Name,
  input: Input<Name>,
  answer: AnswerOf<Name>,
): void => {
  client.setQueryData(readKey(name, input), answer)
}

export type Write = <Name extends WriteName>(name: Name, input: Input<Name>) => Promise<AnswerOf<Name>>

/**
 * Ends the wait of the write before. Its reads are repeated by the next write, so it would otherwise end together with that
 * one, and what it reports could come last.
 */
let overtake: () => void = () => undefined

/** Returns a function that writes and then invalidates all reads. Writes end in the order in which they were answered. */
export function useWrite(): Write {
  const client = useQueryClient()
  return useCallback(
    async (name, input) => {
      const answer = await call(name, input)
      overtake()
      const overtaken = new Promise<void>((done) => (overtake = done))
      await Promise.race([invalidateReads(client), overtaken])
      return answer
    },
    [client],
  )
}
