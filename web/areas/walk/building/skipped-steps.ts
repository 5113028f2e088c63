/** The steps that are skipped in this browser, and whether the steps are hidden. */
import { create } from 'zustand'
import type { BuildingStepId } from '../../../../core/shapes/building.ts'

const STORED = 'esquina skipped steps'

interface SkippedSteps {
  skipped: readonly BuildingStepId[]
  isHidden: boolean
  skip(id: BuildingStepId): void
  take(id: BuildingStepId): void
  hide(isHidden: boolean): void
}

type Stored = Pick<SkippedSteps, 'skipped' | 'isHidden'>

export const useSkippedSteps = create<SkippedSteps>((set, get) => {
  const change = (changes: Partial<Stored>) => {
    set(changes)
    const { skipped, isHidden } = get()
    localStorage.setItem(STORED, JSON.stringify({ skipped, isHidden }))
  }
  return {
    ...stored(),
    skip: (id) => change({ skipped: [...get().skipped.filter((one) => one !== id), id] }),
    take: (id) => change({ skipped: get().skipped.filter((one) => one !== id) }),
    hide: (isHidden) => change({ isHidden }),
  }
})

function stored(): Stored {
  try {
    const { skipped, isHidden } = JSON.parse(localStorage.getItem(STORED) ?? '{}') as Partial<Stored>
    return { skipped: Array.isArray(skipped) ? skipped : [], isHidden: isHidden === true }
  } catch {
    return { skipped: [], isHidden: false }
  }
}
