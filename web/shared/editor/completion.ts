/** What completes a document while it is typed. */
import { completeQuery } from '../../../core/queries/authoring/complete.ts'
import { completeTemplate } from '../../../core/templates/authoring/complete.ts'
import { call } from '../../api/client.ts'
import type { Complete } from './code-editor.tsx'
import { areaOf, languageOf } from './documents.ts'
import { useUnsavedTexts } from './unsaved-texts.ts'

/** An editor is set up again for another function, so each document has one. */
const known = new Map<string, Complete>()

/**
 * Returns the completion for a document; undefined if there is none for its language.
 * @param route of the page that is looked at
 */
export function completionFor(path: string, route: string | null = null): Complete | undefined {
  if (path.startsWith('queries/')) return completeQuery
  if (languageOf(path) !== 'liquid') return undefined
  const key = `${path} ${route ?? ''}`
  let complete = known.get(key)
  if (!complete) {
    // Tags and filters are known here. Values and their fields depend on the whole definition.
    complete = (text, at) => completeTemplate(text, at) ?? completeByType(path, text, at, route)
    known.set(key, complete)
  }
  return complete
}

async function completeByType(document: string, text: string, at: number, route: string | null) {
  const texts = Object.fromEntries(
    Object.entries(useUnsavedTexts.getState().of).flatMap(([path, one]) =>
      areaOf(path) === 'templates' && path !== document ? [[path, one.text]] : [],
    ),
  )
  try {
    return await call('POST /api/template/complete', { body: { document, text, at, texts, route } })
  } catch {
    // Without an answer nothing is offered, and typing goes on.
    return undefined
  }
}
