/** What a check found: a finding with its witness and its fixes, or what it has proven. */
import { Type, type Static } from 'typebox'
import { ChangeStep } from '../shapes/changes.ts'
import { Nullable } from '../shapes/nullable.ts'

export const Fix = Type.Object({
  label: Type.String({ description: 'what it does, e.g. Move above route “post”' }),
  steps: Type.Array(ChangeStep, { description: 'the changes that it consists of' }),
  after: Type.String({ description: 'what is true afterwards, as a sentence' }),
})
export type Fix = Static<typeof Fix>

const Witness = Type.Object({
  address: Nullable(Type.String({ description: 'to be walked' })),
  actual: Nullable(Type.String({ description: 'e.g. 200' })),
  expected: Nullable(Type.String()),
  text: Type.String({ description: 'what the witness shows, as a sentence' }),
})
export type Witness = Static<typeof Witness>

export const Finding = Type.Object({
  rule: Type.String(),
  subject: Type.String({ description: 'what it is about; together with the rule it identifies the finding' }),
  title: Type.String(),
  detail: Type.String(),
  affects: Type.Enum(['now', 'possibly'], {
    description: 'whether readers are affected now, or may be later',
  }),
  witness: Witness,
  cause: Type.String(),
  place: Nullable(Type.Object({ document: Type.String(), line: Nullable(Type.Integer()) })),
  others: Type.Array(Type.String(), { description: 'other addresses or documents with the same fault' }),
  fixes: Type.Array(Fix),
})
export type Finding = Static<typeof Finding>

export const Proven = Type.Object({
  rule: Type.String(),
  sentence: Type.String(),
  count: Type.String({ description: 'what was tested, e.g. 40 of 2,311 addresses' }),
  sample: Nullable(Type.String({ description: 'how a sample was chosen; null if everything was tested' })),
})
export type Proven = Static<typeof Proven>
