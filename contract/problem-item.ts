/** A problem of a document, as the API tells it. */
import { Type, type Static } from 'typebox'

export const ProblemItem = Type.Object(
  {
    file: Type.String(),
    path: Type.Optional(Type.String()),
    line: Type.Optional(Type.Integer()),
    column: Type.Optional(Type.Integer()),
    message: Type.String(),
    hint: Type.Optional(Type.String()),
  },
  { description: 'what is wrong in a document, and where' },
)
export type ProblemItem = Static<typeof ProblemItem>
