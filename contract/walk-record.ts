/** The record of one walked request: its shape (one source for type, API and documentation). */
import { Type, type Static } from 'typebox'
import { Nullable } from '../core/shapes/nullable.ts'

const Milliseconds = Type.Number({ description: 'milliseconds' })

export const Gets = Type.Enum(['page', 'data'], {
  description: 'data: what a program gets that asks for JSON',
})

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
  reason: Nullable(Type.String({ description: 'why it did not answer; null for the one that did' })),
})

export const WalkParameter = Type.Object({
  name: Type.String(),
  from: Type.Enum(['path', 'query']),
  raw: Nullable(Type.String()),
  type: Type.String(),
  value: Type.Union([Type.String(), Type.Number(), Type.Null()], { description: 'null: not given' }),
  note: Nullable(Type.String({ description: 'how an odd or missing value was read' })),
})
export type WalkParameter = Static<typeof WalkParameter>

export const WalkStatement = Type.Object({
  sql: Type.String(),
  values: Type.Array(Type.Unknown()),
  rows: Type.Integer(),
  milliseconds: Milliseconds,
})

export const WalkQuery = Type.Object({
  data: Type.String({ description: 'name of the value in templates' }),
  query: Type.String(),
  document: Nullable(Type.String()),
  sentence: Type.String(),
  parameters: Type.Record(Type.String(), Type.Unknown(), { description: 'what its conditions were given' }),
  outcome: Type.Enum(['rows', 'empty', 'not-run', 'failed']),
  why: Nullable(
    Type.String({
      description: 'why it returned nothing or rows in this order, failed, was run late or was not run',
    }),
  ),
  statements: Type.Array(WalkStatement),
  rows: Type.Integer(),
  total: Nullable(Type.Integer()),
  isEstimated: Type.Boolean({ description: 'the total is PostgreSQL’s estimate' }),
  shown: Type.Array(Type.Object({ label: Type.String(), document: Nullable(Type.String()) }), {
    description: 'the rows, by title',
  }),
  milliseconds: Milliseconds,
  read: Type.Array(
    Type.Object({
      field: Type.String({ description: 'e.g. category.slug' }),
      places: Type.Array(WalkPlace, { description: 'the lines of this page’s templates that read it' }),
    }),
    { description: 'what its templates read of the rows' },
  ),
})
export type WalkQuery = Static<typeof WalkQuery>

export const WalkTemplate = Type.Object({
  name: Type.String(),
  document: Type.String(),
  calledFrom: Nullable(WalkPlace),
  depth: Type.Integer({ description: 'nesting by the template that calls' }),
  count: Type.Integer(),
  milliseconds: Milliseconds,
  self: Type.Number({ description: 'milliseconds without what it renders in turn' }),
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
  tags: Type.Array(Type.String()),
  bytes: Type.Integer(),
  file: Type.String(),
  line: Type.Integer(),
})

export const WalkFailure = Type.Object({
  stage: Type.Enum(['address', 'route', 'queries', 'templates', 'action', 'response']),
  message: Type.String(),
  hint: Nullable(Type.String()),
  place: Nullable(WalkPlace),
  isBuild: Type.Boolean({ description: 'a template could not build an address' }),
})
export type WalkFailure = Static<typeof WalkFailure>

export const WalkRecord = Type.Object({
  id: Type.String(),
  at: Type.String({ format: 'date-time' }),
  method: Type.String(),
  target: Type.String({ description: 'path and query as asked' }),
  as: Type.Enum(['reader', 'author']),
  gets: Gets,
  milliseconds: Milliseconds,
  route: Type.Object({
    name: Nullable(Type.String()),
    pattern: Nullable(Type.String()),
    json: Type.Boolean({ description: 'it answers programs, too' }),
    place: Nullable(WalkPlace),
    candidates: Type.Array(WalkCandidate),
    total: Type.Integer({ description: 'routes in the definition' }),
    note: Nullable(Type.String()),
    milliseconds: Milliseconds,
  }),
  parameters: Type.Array(WalkParameter),
  queries: Type.Object({ runs: Type.Array(WalkQuery), milliseconds: Milliseconds }),
  templates: Type.Object({
    page: Nullable(Type.String()),
    tree: Type.Array(WalkTemplate),
    rounds: Type.Integer({ description: 'renderings begun; more than one when a kept part had to be made' }),
    milliseconds: Milliseconds,
  }),
  fragments: Type.Array(WalkFragment),
  response: Type.Object({
    status: Type.Integer(),
    headers: Type.Record(Type.String(), Type.String()),
    bytes: Type.Integer(),
    body: Type.String(),
    milliseconds: Milliseconds,
  }),
  failure: Nullable(WalkFailure),
  version: Type.String({ description: 'of the definition that answered' }),
})
export type WalkRecord = Static<typeof WalkRecord>
