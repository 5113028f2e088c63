/** The tools that every stage of a walk receives. */
import type { ReactNode } from 'react'
import type { WalkRecord } from '../../../../contract/operations.ts'

/** What a stage needs besides the record: opening documents in place. */
export interface StageTools {
  open(document: string, line?: number): void
  /** The editor, when the open document belongs to this place: a stage, or a query's own document. */
  editorAt(place: string): ReactNode
  watch(as: WalkRecord['as']): void
}
