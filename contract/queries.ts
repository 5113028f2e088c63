/** Operations of the Queries area: what each query means, which rows it gives, and how it runs. */
import { Type, type Static } from 'typebox'
import { Nullable } from '../core/shapes/nullable.ts'
import { Gets, WalkStatement } from './walk-record.ts'
import { ProblemItem } from './problem-item.ts'

const closed = { additionalProperties: false } as const

export const QuerySummary = Type.Object({
  name: Type.String(),
  from: Type.String(),
  take: Type.Enum(['one', 'first', 'all', 'pages']),
  sentence: Type.String(),
  version: Type.Integer({ description: 'of its document' }),
  uses: Type.Array(
    Type.Object({
      route: Type.String(),
      path: Type.String(),
      data: Type.String({ description: 'name in the route’s templates' }),
      example: Nullable(Type.String({ description: 'an address that asks it' })),
    }),
    { description: 'empty: no route uses it' },
  ),
})
export type QuerySummary = Static<typeof QuerySummary>

const Trial = Type.Object(
  {
    name: Type.String({ minLength: 1, maxLength: 60 }),
    text: Type.String({ maxLength: 20_000, description: 'the query in YAML, saved or not' }),
    parameters: Type.Record(Type.String({ maxLength: 60 }), Type.String({ maxLength: 500 }), {
      description: 'as texts; they are read by the type of the field they are compared with',
    }),
    page: Type.Integer({ minimum: 1, maximum: 1_000_000 }),
    cursor: Type.Optional(
      Type.String({ maxLength: 4_000, description: 'where a page by cursor begins; else at the beginning' }),
    ),
    as: Type.Enum(['reader', 'author']),
  },
  closed,
)

export const QueryTrial = Type.Object({
  problems: Type.Array(ProblemItem, { description: 'why it cannot be run; then the rest is empty' }),
  sentence: Type.String(),
  notes: Type.Array(Type.String({ description: 'what was decided for the author' })),
  parameters: Type.Array(
    Type.Object({
      name: Type.String(),
      field: Type.String(),
      type: Type.String(),
      optional: Type.Boolean(),
    }),
  ),
  columns: Type.Array(Type.String()),
  rows: Type.Array(Type.Array(Type.Union([Type.String(), Type.Number(), Type.Boolean(), Type.Null()]))),
  count: Type.Integer({ description: 'rows that came; the first of them are shown' }),
  total: Nullable(Type.Integer()),
  isEstimated: Type.Boolean({ description: 'the total is PostgreSQL’s estimate' }),
  size: Nullable(Type.Integer()),
  by: Nullable(Type.Enum(['number', 'cursor'])),
  previous: Nullable(Type.String({ description: 'cursor of the page before' })),
  next: Nullable(Type.String({ description: 'cursor of the page after' })),
  why: Nullable(Type.String({ description: 'why nothing came, or why in this order' })),
  statements: Type.Array(WalkStatement),
  milliseconds: Type.Number(),
  code: Type.String({ description: 'the same with TypeORM' }),
})
export type QueryTrial = Static<typeof QueryTrial>

const Step = Type.Object({
  depth: Type.Integer(),
  kind: Type.String(),
  sentence: Type.String(),
  rows: Type.Integer(),
  expected: Type.Number(),
  loops: Type.Integer(),
  ownMilliseconds: Type.Number(),
  milliseconds: Type.Number(),
  pagesHit: Type.Integer(),
  pagesRead: Type.Integer(),
  table: Nullable(Type.String()),
  index: Nullable(Type.String()),
  notes: Type.Array(Type.String()),
})
export const QueryPlan = Type.Object({
  statements: Type.Array(
    Type.Object({
      what: Type.String({ description: 'e.g. the rows, their number' }),
      sql: Type.String(),
      steps: Type.Array(Step, { description: 'a step before those below it' }),
      planningMilliseconds: Type.Number(),
      executionMilliseconds: Type.Number(),
    }),
  ),
})
export type QueryPlan = Static<typeof QueryPlan>

export const queryOperations = {
  'GET /api/queries': {
    summary: 'The queries, each in one sentence, with where it is used',
    answer: Type.Array(QuerySummary),
  },
  'POST /api/query/try': {
    summary: 'Run a query, saved or not: its rows, its SQL, the same with TypeORM',
    body: Trial,
    answer: QueryTrial,
  },
  'GET /api/walk/plan': {
    summary:
      'How PostgreSQL runs the statements that an address asked for one of its data: it is walked again',
    query: Type.Object(
      {
        path: Type.String({ minLength: 1, maxLength: 4_000 }),
        as: Type.Optional(Type.Enum(['reader', 'author'])),
        gets: Type.Optional(Gets),
        data: Type.String({ maxLength: 60 }),
      },
      closed,
    ),
    answer: QueryPlan,
  },
  'POST /api/query/plan': {
    summary: 'How PostgreSQL runs a query: every step with its time and rows, measured',
    body: Trial,
    answer: QueryPlan,
  },
} as const
