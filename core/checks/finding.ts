/** What a check found: its sentence, its witness and its mends (one source for type, API and documentation). */
import { Type, type Static } from 'typebox'
import { SlugChangeRequest } from '../shapes/changes.ts'
import { Nullable } from '../shapes/nullable.ts'

export const Mend = Type.Object({
  label: Type.String({ description: 'what it does, e.g. Move it above route “post”' }),
  changes: Type.Array(
    Type.Object({
      document: Type.String(),
      text: Nullable(
        Type.String({ description: 'the whole document as it would be; null: it is taken out' }),
      ),
      before: Type.Optional(Type.String({ description: 'the text that it was made from' })),
    }),
  ),
  slug: Nullable(SlugChangeRequest),
  /** What is deleted, with undo. */
  remove: Type.Optional(
    Type.Object({
      kind: Type.Enum(['category', 'tag', 'author']),
      slug: Type.String(),
      version: Type.Integer(),
    }),
  ),
  after: Type.String({ description: 'what will be so afterwards' }),
})
export type Mend = Static<typeof Mend>

const Witness = Type.Object({
  address: Nullable(Type.String({ description: 'to be walked' })),
  got: Nullable(Type.String({ description: 'e.g. 200' })),
  expected: Nullable(Type.String()),
  text: Type.String({ description: 'what the witness shows, as a sentence' }),
})
export type Witness = Static<typeof Witness>

export const Finding = Type.Object({
  rule: Type.String(),
  subject: Type.String({ description: 'what it is about; with the rule, it names the finding' }),
  title: Type.String(),
  detail: Type.String(),
  affects: Type.Enum(['now', 'possibly'], { description: 'readers now, or it would go wrong' }),
  witness: Witness,
  because: Type.String(),
  place: Nullable(Type.Object({ document: Type.String(), line: Nullable(Type.Integer()) })),
  also: Type.Array(Type.String(), { description: 'other addresses with the same fault' }),
  mends: Type.Array(Mend),
})
export type Finding = Static<typeof Finding>

export const Proven = Type.Object({
  rule: Type.String(),
  sentence: Type.String(),
  count: Type.String({ description: 'what was looked at, e.g. 6 of 6' }),
})
export type Proven = Static<typeof Proven>
