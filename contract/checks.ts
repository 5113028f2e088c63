/** Operations of the Checks area. */
import { Type, type Static } from 'typebox'
import { Finding, Fix, Proven } from '../core/checks/finding.ts'
import { Nullable } from '../core/shapes/nullable.ts'
import { closed, Milliseconds, Time } from './fields.ts'
import type { OperationGroup } from './operation.ts'

const { fixes: _, ...found } = Finding.properties

export const CheckFinding = Type.Object({
  ...found,
  hasFixes: Type.Boolean({ description: 'whether there are fixes to try' }),
  dismissed: Nullable(Type.Object({ reason: Type.String(), at: Time })),
  isOutdated: Type.Boolean({ description: 'whether something has changed since it was found' }),
})
export type CheckFinding = Static<typeof CheckFinding>

const Progress = Type.Object({ done: Type.Integer(), total: Type.Integer() })

export const CheckReport = Type.Object({
  findings: Type.Array(CheckFinding),
  proven: Type.Array(Proven),
  failed: Type.Array(Type.Object({ rule: Type.String(), message: Type.String() })),
  rules: Type.Array(
    Type.Object({ id: Type.String(), area: Type.String(), meaning: Type.String(), why: Type.String() }),
  ),
  running: Nullable(Progress),
  finishedAt: Nullable(Time),
  milliseconds: Milliseconds,
  browser: Type.Object(
    {
      isInstalled: Type.Boolean({ description: 'whether there is Chromium on this machine' }),
      running: Nullable(Progress),
      finishedAt: Nullable(Time),
      milliseconds: Milliseconds,
      isOutdated: Type.Boolean({ description: 'whether something has changed since' }),
      failed: Nullable(Type.String({ description: 'why the last run has failed' })),
    },
    { description: 'the checks that open pages in a browser' },
  ),
})
export type CheckReport = Static<typeof CheckReport>

export const CheckFixes = Type.Object({
  offered: Type.Array(Fix, { description: 'tried: each removes the finding and causes none' }),
  rejected: Type.Array(Type.Object({ label: Type.String(), reason: Type.String() }), {
    description: 'tried, and not offered',
  }),
})
export type CheckFixes = Static<typeof CheckFixes>

const named = { rule: Type.String({ maxLength: 60 }), subject: Type.String({ maxLength: 1_000 }) }

export const checkOperations = {
  'GET /api/checks': {
    summary: 'Return the findings of the last run, and the progress of the current one',
    answer: CheckReport,
  },
  'GET /api/checks/fixes': {
    summary: 'Try the fixes of a finding without saving them, and return those that help',
    query: Type.Object(named, closed),
    answer: CheckFixes,
  },
  'POST /api/checks/run': { summary: 'Run the checks and wait for the result', answer: CheckReport },
  'POST /api/checks/browser': {
    summary: 'Start the checks that open pages in a browser, unless they are running',
    answer: CheckReport,
  },
  'DELETE /api/checks/browser': {
    summary: 'Cancel the checks that open pages in a browser',
    answer: CheckReport,
  },
  'PUT /api/checks/dismissed': {
    summary: 'Dismiss a finding with a reason',
    body: Type.Object({ ...named, reason: Type.String({ minLength: 1, maxLength: 500 }) }, closed),
    answer: CheckReport,
  },
  'DELETE /api/checks/dismissed': {
    summary: 'Reopen a dismissed finding',
    query: Type.Object(named, closed),
    answer: CheckReport,
  },
} as const satisfies OperationGroup
