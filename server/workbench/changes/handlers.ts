/** Handlers of the Changes area. */
import type { changeOperations } from '../../../contract/changes.ts'
import { success, unknown } from '../../../core/shapes/outcome.ts'
import { STEP_PROBLEMS } from '../../author/problems.ts'
import { undoBlocked, undoStep } from '../../author/steps/undo-step.ts'
import { Writing, type WritingPorts } from '../../author/writing.ts'
import type { DatabasePort, PublishPort } from '../../publish/ports.ts'
import { findStep, listSteps, rowNames, undoneSteps } from '../../store/changes/steps.ts'
import { withPurged, type HandlersOf } from '../http/handlers-of.ts'
import { describeStep, referredRows } from './describe-step.ts'

/** Steps of one answer. */
const STEPS = 30
/** How long a value may be in a list, and for one step, in characters. */
const SHORT = 120
const LONG = 600_000

export const changeHandlers = (
  blog: WritingPorts & DatabasePort & PublishPort,
): HandlersOf<typeof changeOperations> => ({
  'GET /api/steps': async ({ query: { before, of } }) => {
    const { manager } = blog.database
    const found = await listSteps(manager, { before, of, limit: STEPS + 1 })
    const steps = found.slice(0, STEPS)
    const undone = await undoneSteps(manager, steps.at(-1)?.id ?? '0')
    const names = await rowNames(manager, referredRows(steps.flatMap((one) => one.entries)))
    return success({
      steps: steps.map((one) => describeStep(one, undone, names, SHORT)),
      isMore: found.length > STEPS,
    })
  },
  'GET /api/step': async ({ query: { id } }) => {
    const { manager } = blog.database
    const step = await findStep(manager, id)
    if (!step) return unknown({ file: 'changes', ...STEP_PROBLEMS['step-unknown']() })
    const names = await rowNames(manager, referredRows(step.entries))
    return success(describeStep(step, await undoneSteps(manager, id), names, LONG))
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
