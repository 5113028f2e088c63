/** The tools that every stage of a walk receives. */
import type { ReactNode } from 'react'
import type { WalkRecord } from '../../../../contract/walk-record.ts'

export interface StageTools {
  open(document: string, line?: number): void
  /** Returns the editor if the open document belongs to this place: a stage, or the document of a query. */
  editorAt(place: string): ReactNode
  /** Whether stored fragments are used, and walking the address again with or without them. */
  kept: { isOn: boolean; change(isOn: boolean): void }
  /** Walks the address again as someone else. */
  walkAs(as: WalkRecord['as']): void
}
