/** What the top line knows of the last walk: the stages that need attention. */
import { create } from 'zustand'
import type { WalkRecord } from '../../../contract/walk-record.ts'

export type StageName =
  'route' | 'parameters' | 'queries' | 'templates' | 'fragments' | 'submission' | 'response'

export const useAttention = create<{
  stages: StageName[]
  note(stages: StageName[]): void
}>((set) => ({
  stages: [],
  note: (stages) => set({ stages }),
}))

/** Returns the stages of a walk that need attention. */
export function stagesNeedingAttention(record: WalkRecord): StageName[] {
  const stages = new Set<StageName>()
  const { failure, route, queries, response, parameters, submission } = record
  if (failure) stages.add(failure.stage === 'address' || failure.stage === 'action' ? 'route' : failure.stage)
  if (route.note !== null && response.status >= 400) stages.add('route')
  if (parameters.some((one) => one.isInvalid)) stages.add('parameters')
  if (response.status === 404 && queries.runs.some((run) => run.outcome === 'empty')) stages.add('queries')
  if (submission?.steps.some((one) => one.outcome === 'stopped')) stages.add('submission')
  if (response.status >= 400) stages.add('response')
  return [...stages]
}
