/** Changes that a fix or a form proposes: the new text of a document, a new slug for a row. */
import { Type, type Static } from 'typebox'
import { SLUG_KINDS } from './content-kinds.ts'

export const DocumentChange = Type.Object({
  document: Type.String(),
  text: Type.String({ description: 'the complete new text of the document' }),
})
export type DocumentChange = Static<typeof DocumentChange>

export const SlugChangeRequest = Type.Object({
  kind: Type.Enum([...SLUG_KINDS]),
  from: Type.String(),
  to: Type.String(),
})
