/** Problems as the API reports them: problem details (RFC 9457) with the places of faults in documents. */
import { Type, type Static } from 'typebox'

export const ProblemItem = Type.Object(
  {
    code: Type.String({ description: 'stable code; docs/problems.md lists all of them' }),
    file: Type.String(),
    path: Type.Optional(
      Type.String({ description: 'place inside the document’s data, e.g. /2/params/slug' }),
    ),
    line: Type.Optional(Type.Integer({ description: '1-based' })),
    column: Type.Optional(Type.Integer({ description: '1-based' })),
    message: Type.String(),
    hint: Type.Optional(Type.String({ description: 'what to do about it' })),
    missing: Type.Optional(Type.String({ description: 'path of the document that has to be created' })),
  },
  { description: 'what is wrong in a document, and where' },
)
export type ProblemItem = Static<typeof ProblemItem>

export const ProblemDetails = Type.Object({
  type: Type.String(),
  code: Type.String({ description: 'stable code; docs/problems.md lists all of them' }),
  title: Type.String(),
  status: Type.Integer(),
  detail: Type.Optional(Type.String()),
  problems: Type.Optional(Type.Array(ProblemItem)),
  document: Type.Optional(Type.String({ description: 'after a conflict: the document concerned' })),
  version: Type.Optional(Type.Integer({ description: 'after a conflict: the stored version' })),
  text: Type.Optional(Type.String({ description: 'after a conflict: the stored text' })),
})
export type ProblemDetails = Static<typeof ProblemDetails>
