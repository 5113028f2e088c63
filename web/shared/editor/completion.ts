/** What completes a document while it is typed. */
import { completeQuery } from '../../../core/queries/authoring/complete.ts'
import { completeTemplate } from '../../../core/templates/authoring/complete.ts'
import { languageOf } from './documents.ts'
import type { Complete } from './code-editor.tsx'

/** Returns the completion for a document; undefined if there is none for its language. */
export function completionFor(path: string): Complete | undefined {
  if (path.startsWith('queries/')) return completeQuery
  return languageOf(path) === 'liquid' ? completeTemplate : undefined
}
