/** Applies several changes in order, all or none, and returns the changes that undo them. */
import type { ChangeStep } from '../../core/shapes/changes.ts'
import { conflict, refused, success, unknown, type Outcome } from '../../core/shapes/outcome.ts'
import type { Publishing } from '../publish/ports.ts'
import { DocumentEntity } from '../store/entities/definition.ts'
import { restore } from './deleted/deleted.ts'
import { saveDocuments, type DocumentWrite } from './documents/documents.ts'
import { readStored, saveFile } from './files.ts'
import { CHANGE_PROBLEMS, ROW_PROBLEMS } from './problems.ts'
import { changeSlug } from './slugs/slugs.ts'
import { deleteTerm } from './terms/delete-term.ts'
import type { Writing } from './writing.ts'

export interface AppliedChanges {
  /** In the order in which they must be applied. */
  undo: ChangeStep[]
  /** The version of each document that was saved. */
  versions: Record<string, number>
  /** The slugs, or paths of pages, that were changed to. */
  slugs: { kind: string; current: string }[]
}

type DocumentStep = Extract<ChangeStep, { do: 'save-document' | 'delete-document' }>

const isDocumentStep = (step: ChangeStep): step is DocumentStep =>
  step.do === 'save-document' || step.do === 'delete-document'

/** Whether a step changes a document of the definition, and not of the content. */
export const isOfDefinition = (step: ChangeStep): step is DocumentStep =>
  isDocumentStep(step) && !step.document.startsWith('content/')

/**
 * Applies changes. The documents of the definition are saved together, since only all of them need to be valid.
 */
export async function applyChanges(
  writing: Writing,
  steps: readonly ChangeStep[],
  publishing: Publishing,
): Promise<Outcome<AppliedChanges>> {
  const applied: AppliedChanges = { undo: [], versions: {}, slugs: [] }
  const definition = await applyToDefinition(writing, steps.filter(isOfDefinition), publishing, applied)
  if (!definition.ok) return definition
  for (const step of steps) {
    if (isOfDefinition(step)) continue
    const done = await applyStep(writing, step, applied)
    if (!done.ok) return done
  }
  applied.undo.reverse()
  return success(applied)
}

async function applyToDefinition(
  writing: Writing,
  steps: readonly DocumentStep[],
  publishing: Publishing,
  applied: AppliedChanges,
): Promise<Outcome<null>> {
  if (steps.length === 0) return success(null)
  const writes: DocumentWrite[] = []
  const before = new Map<string, string | null>()
  for (const step of steps) {
    const stored = await writing.manager.findOneBy(DocumentEntity, { path: step.document })
    const version = versionOf(step, stored)
    if (!version.ok) return version
    before.set(step.document, stored?.text ?? null)
    const text = step.do === 'save-document' ? step.text : null
    writes.push({ path: step.document, text, version: version.value })
  }
  const saved = await saveDocuments(writing, writes, publishing)
  if (!saved.ok) return saved
  Object.assign(applied.versions, saved.value.versions)
  for (const [document, text] of before) {
    const version = saved.value.versions[document] ?? 0
    if (text !== null) applied.undo.push({ do: 'save-document', document, text, version })
    else if (version > 0) applied.undo.push({ do: 'delete-document', document, version })
  }
  return success(null)
}

interface Stored {
  text: string
  version: number
}

/** Returns the version that a step is based on, if its basis is what is stored. */
function versionOf(step: DocumentStep, stored: Stored | null): Outcome<number> {
  const { document, basis, version } = step
  if (version !== undefined) return success(version)
  if (basis === undefined)
    return refused({ file: document, ...CHANGE_PROBLEMS['change-basis-missing'](document) })
  if (basis === (stored?.text ?? '')) return success(stored?.version ?? 0)
  return conflict(
    { file: document, ...ROW_PROBLEMS['version-conflict'](document) },
    { document, version: stored?.version ?? 0, text: stored?.text ?? '' },
  )
}

async function applyStep(
  writing: Writing,
  step: ChangeStep,
  applied: AppliedChanges,
): Promise<Outcome<unknown>> {
  switch (step.do) {
    case 'save-document':
      return await saveContent(writing, step, applied)
    case 'delete-document':
      return refused({ file: step.document, ...CHANGE_PROBLEMS['change-content-delete'](step.document) })
    case 'change-slug': {
      const { kind, from, to } = step
      const changed = await changeSlug(writing, { kind, from, to })
      if (!changed.ok) return changed
      applied.slugs.push({ kind, current: changed.value.current })
      applied.undo.push({ do: 'change-slug', kind, from: changed.value.current, to: from })
      return changed
    }
    case 'delete-term': {
      const { kind, slug, version } = step
      const deleted = await deleteTerm(writing, kind, { slug, version }, { into: null, evenIfUsed: false })
      if (deleted.ok) applied.undo.push({ do: 'restore', deleted: deleted.value.deleted })
      return deleted
    }
    case 'restore':
      // A restored row can be deleted again like any other, so there is no step that undoes it.
      return await restore(writing, step.deleted)
  }
}

/** Saves a post or a page from its file. */
async function saveContent(
  writing: Writing,
  step: Extract<ChangeStep, { do: 'save-document' }>,
  applied: AppliedChanges,
): Promise<Outcome<unknown>> {
  const { document, text } = step
  const stored = await readStored(writing.manager, document)
  if (!stored) return unknown({ file: document, ...ROW_PROBLEMS['row-unknown']('document', document) })
  const version = versionOf(step, stored)
  if (!version.ok) return version
  const saved = await saveFile(writing, { path: document, version: version.value }, text)
  if (!saved.ok) return saved
  const { path } = saved.value
  applied.versions[path] = saved.value.version
  applied.undo.push({
    do: 'save-document',
    document: path,
    text: stored.text,
    version: saved.value.version,
  })
  return saved
}
