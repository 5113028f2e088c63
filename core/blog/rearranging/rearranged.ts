/** What a rearrangement changes, once the definition was read as it would be. */
import type { DocumentChange } from '../../shapes/changes.ts'
import { refused, success, type Outcome } from '../../shapes/outcome.ts'
import type { TemplateFault } from '../../templates/types/faults.ts'
import { analysedTemplates } from '../data-types.ts'
import type { Definition } from '../definition.ts'
import { REARRANGING_PROBLEMS } from '../problems.ts'
import { readDefinition } from '../read.ts'

export interface Rearranged {
  changes: DocumentChange[]
  /** Documents that are deleted. */
  deleted: string[]
}

/** Returns the changes, unless the definition would have a problem, or templates a fault, that it does not have now. */
export function rearranged(
  definition: Definition,
  documents: ReadonlyMap<string, string>,
  change: Rearranged,
  file: string,
): Outcome<Rearranged> {
  const after = new Map(documents)
  for (const { document, text } of change.changes) after.set(document, text)
  for (const document of change.deleted) after.delete(document)
  const read = readDefinition(after)
  if (!read.ok) return read
  const added = addedFault(analysedTemplates(definition).faults, analysedTemplates(read.value).faults)
  return added
    ? refused({ file, ...REARRANGING_PROBLEMS['rearranging-causes-fault'](added.message) })
    : success(change)
}

/** Lines and names change, and what a partial repeats is repeated: a fault counts if its kind becomes more, with other words. */
function addedFault(
  before: readonly TemplateFault[],
  after: readonly TemplateFault[],
): TemplateFault | undefined {
  const known = new Set(before.map((one) => one.message))
  const countOf = (faults: readonly TemplateFault[], kind: string) =>
    faults.filter((one) => one.kind === kind).length
  return after.find((one) => !known.has(one.message) && countOf(after, one.kind) > countOf(before, one.kind))
}
