/** The record of a walked request. */
import { Type, type Static } from 'typebox'
import { Nullable } from '../core/shapes/nullable.ts'
import { Milliseconds } from './fields.ts'

export const Accepts = Type.Enum(['html', 'json'], { description: 'the preferred type of the response' })
export type Accepts = Static<typeof Accepts>

export const WalkPlace = Type.Object({
  document: Type.String(),
  line: Type.Optional(Type.Integer()),
  column: Type.Optional(Type.Integer()),
})
export type WalkPlace = Static<typeof WalkPlace>

export type WalkCandidate = Static<typeof WalkCandidate>
export const WalkCandidate = Type.Object({
  route: Type.String(),
  pattern: Type.String(),
  reason: Nullable(Type.String({ description: 'why it did not answer; null for the route that did' })),
})

const WalkParameter = Type.Object({
  name: Type.String(),
  from: Type.Enum(['path', 'query']),
  raw: Nullable(Type.String()),
  type: Type.String(),
  value: Type.Union([Type.String(), Type.Number(), Type.Null()], { description: 'null if absent' }),
  note: Nullable(Type.String({ description: 'how an invalid or absent value was read' })),
  isInvalid: Type.Boolean({ description: 'whether a value was sent that cannot be used' }),
})
export type WalkParameter = Static<typeof WalkParameter>

export const WalkStatement = Type.Object({
  sql: Type.String(),
  values: Type.Array(Type.Unknown()),
  rows: Type.Integer(),
  milliseconds: Milliseconds,
})

export const WalkQuery = Type.Object({
  data: Type.String({ description: 'name in templates' }),
  query: Type.String(),
  document: Nullable(Type.String()),
  sentence: Type.String(),
  parameters: Type.Record(Type.String(), Type.Unknown(), { description: 'the values of its conditions' }),
  outcome: Type.Enum(['rows', 'empty', 'not-run', 'failed']),
  why: Nullable(
    Type.String({
      description: 'why it returned no rows or rows in this order, failed, ran late or did not run',
    }),
  ),
  isUnpublished: Type.Boolean({
    description: 'whether it returned no rows only because a row is a draft or scheduled',
  }),
  statements: Type.Array(WalkStatement),
  rows: Type.Integer(),
  total: Nullable(Type.Integer()),
  isEstimated: Type.Boolean({ description: 'whether the total is PostgreSQL’s estimate' }),
  shown: Type.Array(Type.Object({ label: Type.String(), document: Nullable(Type.String()) }), {
    description: 'the rows by their titles',
  }),
  milliseconds: Milliseconds,
  read: Type.Array(
    Type.Object({
      field: Type.String({ description: 'e.g. category.slug' }),
      places: Type.Array(WalkPlace, { description: 'the lines of this page’s templates that read it' }),
    }),
    { description: 'the fields that templates read' },
  ),
})
export type WalkQuery = Static<typeof WalkQuery>

export const WalkTemplate = Type.Object({
  name: Type.String(),
  document: Type.String(),
  calledFrom: Nullable(WalkPlace),
  depth: Type.Integer({ description: 'nesting of calls' }),
  count: Type.Integer(),
  milliseconds: Milliseconds,
  self: Type.Number({ description: 'milliseconds without the templates that it renders' }),
})
export type WalkTemplate = Static<typeof WalkTemplate>

export type WalkFragment = Static<typeof WalkFragment>
export const WalkFragment = Type.Object({
  name: Type.String(),
  key: Type.String(),
  outcome: Type.Enum(['hit', 'miss', 'bypass']),
  stored: Type.Boolean(),
  ageMilliseconds: Type.Number(),
  remainingMilliseconds: Type.Number(),
  lifetimeMilliseconds: Type.Number(),
  dependsOn: Type.Array(Type.String()),
  bytes: Type.Integer(),
  file: Type.String(),
  line: Type.Integer(),
})

const SubmissionStep = Type.Object({
  code: Type.String({ description: 'e.g. token, rate or decision' }),
  outcome: Type.Enum(['passed', 'stopped', 'noted']),
  sentence: Type.String(),
})
export type WalkSubmissionStep = Static<typeof SubmissionStep>

export const SubmissionResult = Type.Object({
  outcome: Type.Enum(['shown', 'waiting', 'spam', 'deleted', 'repeated', 'preview', 'edit', 'rejected']),
  comment: Nullable(Type.Integer({ description: 'id of the comment' })),
  why: Type.Array(Type.String(), {
    description: 'codes of the reasons for which it waits or is spam, or the step at which it was rejected',
  }),
  page: Nullable(Type.String({ description: 'path of the page with the form' })),
})
export type SubmissionResult = Static<typeof SubmissionResult>

export const WalkSubmission = Type.Object({
  result: SubmissionResult,
  steps: Type.Array(SubmissionStep),
  words: Type.Array(
    Type.Object({
      word: Type.String(),
      weight: Type.Number({ description: 'above 0 for spam, below 0 for comments that are shown' }),
    }),
    { description: 'the words that decide the score' },
  ),
  statements: Type.Array(WalkStatement, { description: 'in the order in which they ran' }),
  row: Nullable(Type.Record(Type.String(), Type.Unknown(), { description: 'the comment as it was stored' })),
  dropped: Type.Array(Type.Object({ key: Type.String(), name: Type.String(), why: Type.String() }), {
    description: 'copies that were dropped, or would be',
  }),
})
export type WalkSubmission = Static<typeof WalkSubmission>

export const WalkFailure = Type.Object({
  stage: Type.Enum(['address', 'route', 'queries', 'templates', 'action', 'response']),
  message: Type.String(),
  hint: Nullable(Type.String()),
  place: Nullable(WalkPlace),
  isBuild: Type.Boolean({ description: 'whether a template failed to build an address' }),
})
export type WalkFailure = Static<typeof WalkFailure>

export const WalkRecord = Type.Object({
  id: Type.String(),
  at: Type.String({ format: 'date-time' }),
  method: Type.String(),
  target: Type.String({ description: 'path and query string as requested' }),
  as: Type.Enum(['reader', 'author']),
  accepts: Accepts,
  milliseconds: Milliseconds,
  route: Type.Object({
    name: Nullable(Type.String()),
    pattern: Nullable(Type.String()),
    json: Type.Boolean({ description: 'whether it also answers with JSON' }),
    place: Nullable(WalkPlace),
    candidates: Type.Array(WalkCandidate),
    total: Type.Integer({ description: 'number of routes' }),
    note: Nullable(Type.String()),
    milliseconds: Milliseconds,
  }),
  parameters: Type.Array(WalkParameter),
  queries: Type.Object({ runs: Type.Array(WalkQuery), milliseconds: Milliseconds }),
  templates: Type.Object({
    page: Nullable(Type.String()),
    tree: Type.Array(WalkTemplate),
    rounds: Type.Integer({
      description: 'number of renderings; more than one if a fragment needed more data',
    }),
    milliseconds: Milliseconds,
  }),
  copy: Nullable(Type.String({ description: 'what readers get of a copy of the whole page' })),
  fragments: Type.Array(WalkFragment),
  submission: Nullable(WalkSubmission),
  response: Type.Object({
    status: Type.Integer(),
    headers: Type.Record(Type.String(), Type.String()),
    bytes: Type.Integer(),
    body: Type.String(),
    milliseconds: Milliseconds,
  }),
  failure: Nullable(WalkFailure),
  version: Type.String({ description: 'version of the definition' }),
})
export type WalkRecord = Static<typeof WalkRecord>
