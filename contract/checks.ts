/** Operations of the Checks area. */
import { Type, type Static } from 'typebox'
import { Nullable } from '../core/shapes/nullable.ts'
import { Finding, Proven } from '../core/checks/finding.ts'

const closed = { additionalProperties: false } as const

export const CheckFinding = Type.Object({
  ...Finding.properties,
  aside: Nullable(Type.Object({ reason: Type.String(), at: Type.String({ format: 'date-time' }) })),
})
export type CheckFinding = Static<typeof CheckFinding>

export const CheckReport = Type.Object({
  findings: Type.Array(CheckFinding),
  proven: Type.Array(Proven),
  failed: Type.Array(Type.Object({ rule: Type.String(), message: Type.String() })),
  rules: Type.Array(
    Type.Object({ id: Type.String(), area: Type.String(), meaning: Type.String(), why: Type.String() }),
  ),
  running: Nullable(Type.Object({ done: Type.Integer(), total: Type.Integer() })),
  finishedAt: Nullable(Type.String({ format: 'date-time' })),
  milliseconds: Type.Number(),
})
export type CheckReport = Static<typeof CheckReport>

const Named = { rule: Type.String({ maxLength: 60 }), subject: Type.String({ maxLength: 1_000 }) }

export const checkOperations = {
  'GET /api/checks': { summary: 'What the last checks found, and how a run is going', answer: CheckReport },
  'POST /api/checks/run': {
    summary: 'Run the checks now; answered when they have ended',
    answer: CheckReport,
  },
  'PUT /api/checks/aside': {
    summary: 'Set a finding aside, with a reason',
    body: Type.Object({ ...Named, reason: Type.String({ minLength: 1, maxLength: 500 }) }, closed),
    answer: CheckReport,
  },
  'DELETE /api/checks/aside': {
    summary: 'Take a finding up again',
    query: Type.Object(Named, closed),
    answer: CheckReport,
  },
} as const
