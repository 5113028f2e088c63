/** What the top line knows of the last walk: where it was, and which stages have something to look at. */
import { create } from 'zustand'
import type { WalkRecord } from '../../../contract/operations.ts'

export type StageName = 'route' | 'parameters' | 'queries' | 'templates' | 'fragments' | 'response'

export const useAttention = create<{
  stages: StageName[]
  walkAddress: string
  note(stages: StageName[], walkAddress: string): void
}>((set) => ({
  stages: [],
  walkAddress: '/walk',
  note: (stages, walkAddress) => set({ stages, walkAddress }),
}))

/** Stages of a walk in which something is off. */
export function stagesToLookAt(record: WalkRecord): StageName[] {
  const stages = new Set<StageName>()
  const { failure, route, queries, response, parameters } = record
  if (failure) stages.add(failure.stage === 'address' || failure.stage === 'action' ? 'route' : failure.stage)
  if (route.note !== null && response.status >= 400) stages.add('route')
  if (parameters.some((one) => one.note?.startsWith('“'))) stages.add('parameters')
  if (response.status === 404 && queries.runs.some((run) => run.outcome === 'empty')) stages.add('queries')
  if (response.status >= 400) stages.add('response')
  return [...stages]
}
