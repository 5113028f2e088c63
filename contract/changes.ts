/** Operations of the Changes area: what was changed, and undoing it. */
import { Type, type Static } from 'typebox'
import { Nullable } from '../core/shapes/nullable.ts'
import { closed, Insist, Purged, Time } from './fields.ts'
import type { OperationGroup } from './operation.ts'

const StepId = Type.String({ pattern: '^[1-9][0-9]{0,18}$', description: 'the transaction' })

export const ChangedField = Type.Object({
  name: Type.String(),
  before: Nullable(Type.String({ description: 'null if there was no value' })),
  after: Nullable(Type.String({ description: 'null if there is no value' })),
})
export type ChangedField = Static<typeof ChangedField>

export const ChangedRow = Type.Object({
  table: Type.String({ description: 'e.g. post, category or document' }),
  title: Type.String({ description: 'what it is called' }),
  kind: Type.Enum(['created', 'changed', 'deleted']),
  fields: Type.Array(ChangedField, { description: 'what differs; long texts are cut, in lists sooner' }),
})
export type ChangedRow = Static<typeof ChangedRow>

export const StepItem = Type.Object({
  id: StepId,
  at: Time,
  isOutside: Type.Boolean({ description: 'whether another program made it' }),
  of: Type.Enum(['content', 'definition', 'both']),
  rows: Type.Array(ChangedRow),
  total: Type.Integer({ description: 'how many rows it has changed; `rows` are the first of them' }),
  undoes: Nullable(Type.String({ description: 'the step that it undoes' })),
  undoneBy: Nullable(Type.String({ description: 'the step that has undone it' })),
})
export type StepItem = Static<typeof StepItem>

export const changeOperations = {
  'GET /api/steps': {
    summary: 'List what was changed, newest first: definition and content',
    query: Type.Object(
      { before: Type.Optional(StepId), of: Type.Optional(Type.Enum(['content', 'definition'])) },
      closed,
    ),
    answer: Type.Object({
      steps: Type.Array(StepItem),
      isMore: Type.Boolean({ description: 'whether there are earlier ones' }),
    }),
  },
  'GET /api/step': {
    summary: 'Return one step with the texts before and after',
    query: Type.Object({ id: StepId }, closed),
    answer: StepItem,
  },
  'POST /api/step/undo': {
    summary: 'Undo a step as one transaction, if no later step builds on it',
    body: Type.Object({ id: StepId, insist: Insist }, closed),
    answer: Type.Object({ purged: Purged }),
  },
} as const satisfies OperationGroup
