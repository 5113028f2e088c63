/** Undoes a step: everything that one transaction has changed, as one transaction. */
import { blocked, success, unknown, type Outcome } from '../../../core/shapes/outcome.ts'
import { tryAndBuild } from '../documents/documents.ts'
import type { Publishing } from '../../publish/ports.ts'
import { laterSteps, undoneSteps } from '../../store/changes/steps.ts'
import { reachOf, undoEntries } from '../../store/changes/undo-entries.ts'
import { lockTable } from '../../store/content/locks.ts'
import { DocumentEntity } from '../../store/entities/definition.ts'
import { STEP_PROBLEMS } from '../problems.ts'
import type { Writing } from '../writing.ts'

const FILE = 'changes'

/**
 * Undoes a step, if no later step builds on it. The undoing is a step, too, and can be undone.
 */
export async function undoStep(writing: Writing, id: string, publishing: Publishing): Promise<Outcome<null>> {
  const { manager, unit } = writing
  const reach = await reachOf(manager, id)
  if (!reach) return unknown({ file: FILE, ...STEP_PROBLEMS['step-unknown']() })
  if (reach.documents) await lockTable(manager, 'document')
  const undone = await undoneSteps(manager, id)
  if (undone.has(id)) return blocked({ file: FILE, ...STEP_PROBLEMS['step-undone']() })
  const later = await laterSteps(manager, id)
  if (later.length > 0) return blocked({ file: FILE, ...STEP_PROBLEMS['step-built-upon'](later.length) })
  if (reach.emptied) return blocked({ file: FILE, ...STEP_PROBLEMS['step-not-kept']() })
  const stored = async () => new Map((await manager.find(DocumentEntity)).map((row) => [row.path, row.text]))
  const current = reach.documents ? await stored() : new Map<string, string>()
  await undoEntries(manager, id)
  writing.forgetNames()
  if (!reach.documents) return success(null)
  const documents = await stored()
  const built = await tryAndBuild(manager.connection, publishing, documents, current)
  if (!built.ok) return built
  unit.afterCommit(() => publishing.activate(built.value))
  return success(null)
}

/** A constraint that the undoing violates: another row has the name of a restored one, or refers to a deleted one. */
export const undoBlocked = (constraint: string) =>
  blocked({
    file: FILE,
    ...STEP_PROBLEMS[constraint.endsWith('_key') ? 'step-name-taken' : 'step-needed'](constraint),
  })
