/** Handlers of the Changes area. */
import type { changeOperations } from '../../../contract/changes.ts'
import { success, unknown } from '../../../core/shapes/outcome.ts'
import { STEP_PROBLEMS } from '../../author/problems.ts'
import { undoBlocked, undoStep } from '../../author/steps/undo-step.ts'
import { Writing, type WritingPorts } from '../../author/writing.ts'
import type { DatabasePort, PublishPort } from '../../publish/ports.ts'
import { findStep, listSteps, rowNames, undoneSteps, type Extent } from '../../store/changes/steps.ts'
import { withPurged, type HandlersOf } from '../http/handlers-of.ts'
import { describeStep, referredRows } from './describe-step.ts'

/** Steps of one answer. */
const STEPS = 30
/** What is read of each step of a list, which names only the first row. */
const LISTED: Extent = { entries: 1, text: 120 }
/** What is read of one step: texts of few rows as a whole. */
const ENTRIES = 50
const TEXTS = 600_000

export const changeHandlers = (
  blog: WritingPorts & DatabasePort & PublishPort,
): HandlersOf<typeof changeOperations> => ({
  'GET /api/steps': async ({ query: { before, of } }) => {
    const { manager } = blog.database
    const found = await listSteps(manager, { before, of, limit: STEPS + 1, extent: LISTED })
    const steps = found.slice(0, STEPS)
    const undone = await undoneSteps(manager, steps.at(-1)?.id ?? '0')
    const names = await rowNames(manager, referredRows(steps.flatMap((one) => one.entries)))
    return success({
      steps: steps.map((one) => describeStep(one, undone, names)),
      isMore: found.length > STEPS,
    })
  },
  'GET /api/step': async ({ query: { id } }) => {
    const { manager } = blog.database
    const sized = await findStep(manager, id, { entries: 0, text: 0 })
    const entries = Math.min(sized?.total ?? 0, ENTRIES)
    const step = sized && (await findStep(manager, id, { entries, text: Math.floor(TEXTS / entries) }))
    if (!step) return unknown({ file: 'changes', ...STEP_PROBLEMS['step-unknown']() })
    const names = await rowNames(manager, referredRows(step.entries))
    return success(describeStep(step, await undoneSteps(manager, id), names))
  },
  'POST /api/step/undo': async ({ body: { id, insist } }) => {
    const { store, site, clock } = blog
    const written = await store.write(
      (unit) => undoStep(new Writing(unit, site.definition, clock()), id, blog.publishing(insist)),
      undoBlocked,
    )
    return withPurged(written.ok ? { ...written, value: {} } : written)
  },
})
