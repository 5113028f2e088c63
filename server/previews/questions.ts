/** The questions to the thread of previews. */
import type { AnswerOf } from '../../contract/operations.ts'
import type { TemplatePreview } from '../../contract/templates.ts'
import type { TextPlace } from '../../core/blog/rearranging/inline-partial.ts'
import type { Rearranged } from '../../core/blog/rearranging/rearranged.ts'
import type { Selection } from '../../core/blog/rearranging/extract-partial.ts'
import type { DocumentChange } from '../../core/shapes/changes.ts'
import type { Outcome } from '../../core/shapes/outcome.ts'
import type { Documents } from '../publish/trials.ts'

export interface PreviewQuestion {
  kind: 'preview'
  /** Of the database with the content. */
  url: string
  documents: Documents
  /** The document whose values are shown. */
  document: string
  target: string
  as: 'reader' | 'author'
  time: number
  /** Signs cursors, so that they are those of the running blog. */
  cursorKey: Uint8Array
  /** The origin of the built-in comment service. */
  commentService: string | null
}

export interface CompletionQuestion {
  kind: 'complete'
  documents: Documents
  document: string
  text: string
  at: number
  route: string | null
}

export interface ExtractQuestion {
  kind: 'extract'
  documents: Documents
  selection: Selection
}

/** A change of templates that leaves every page as it is. */
export interface RearrangingQuestion {
  kind: 'rearrange'
  documents: Documents
  how:
    | ({ do: 'inline' } & TextPlace)
    | ({ do: 'rename-value'; to: string } & TextPlace)
    | { do: 'rename-document'; from: string; to: string }
}

/** Which of the steps are done in which a blog is built. */
export interface BuildingQuestion {
  kind: 'building'
  url: string
  documents: Documents
  cursorKey: Uint8Array
  commentService: string | null
}

export type BuildingState = AnswerOf<'GET /api/building'>

export type Extracted = Outcome<{ changes: DocumentChange[]; given: string[] }>

export type Question =
  PreviewQuestion | CompletionQuestion | ExtractQuestion | RearrangingQuestion | BuildingQuestion
export type Completion = AnswerOf<'POST /api/template/complete'>
export type Answer = TemplatePreview | Completion | Extracted | Outcome<Rearranged> | BuildingState
