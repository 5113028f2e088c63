/** The steps as the blog has answered for them, and whether they are shown beside the page. */
import type { BuildingStep } from '../../../../contract/building.ts'
import { useRead } from '../../../api/queries.ts'
import { useSkippedSteps } from './skipped-steps.ts'

export interface Building {
  steps: readonly BuildingStep[]
  done: number
  /** The first step that is neither done nor skipped. */
  next: BuildingStep | undefined
  /** Whether the steps are shown where the address does not say. */
  isShownFirst: boolean
}

export function useBuilding(): Building | undefined {
  const { data } = useRead('GET /api/building', {})
  const { skipped, isHidden } = useSkippedSteps()
  if (!data) return undefined
  const { steps, isNew } = data
  return {
    steps,
    done: steps.filter((one) => one.isDone).length,
    next: steps.find((one) => !one.isDone && !skipped.includes(one.id)),
    isShownFirst: isNew && !isHidden,
  }
}
