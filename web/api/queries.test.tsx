// Writes end in the order in which they were answered, although all wait for the same reads.
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { renderHook, waitFor } from '@testing-library/react'
import { setTimeout } from 'node:timers/promises'
import type { ReactNode } from 'react'
import { expect, it, vi } from 'vitest'
import { useRead, useWrite } from './queries.ts'

/** How long a read takes, in milliseconds. */
const SLOW = 300

vi.mock('./client.ts', () => ({
  call: async (name: string) => {
    if (name.startsWith('GET')) await setTimeout(SLOW)
    return { name }
  },
}))

it('a write does not wait for the reads of the next one', async () => {
  const client = new QueryClient()
  const { result } = renderHook(
    () => ({ read: useRead('GET /api/comments/waiting', {}), write: useWrite() }),
    {
      wrapper: ({ children }: { children: ReactNode }) => (
        <QueryClientProvider client={client}>{children}</QueryClientProvider>
      ),
    },
  )
  await waitFor(() => expect(result.current.read.isSuccess).toBe(true))
  const { write } = result.current
  const ended: string[] = []
  const first = write('POST /api/checks/run', {}).then(() => ended.push('first'))
  await setTimeout(SLOW / 3)
  expect(ended).toEqual([])
  const second = write('POST /api/checks/run', {}).then(() => ended.push('second'))
  await setTimeout(SLOW / 3)
  // The reads of the second one are not there yet.
  expect(ended).toEqual(['first'])
  await Promise.all([first, second])
  expect(ended).toEqual(['first', 'second'])
})
