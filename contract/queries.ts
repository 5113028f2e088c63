/** Operations of the Queries area: what each query means, which rows it returns, and how it runs. */
import { Type, type Static } from 'typebox'
import { Nullable } from '../core/shapes/nullable.ts'
import { closed, Milliseconds } from './fields.ts'
import type { OperationGroup } from './operation.ts'
import { ProblemItem } from './problem.ts'
import { WalkStatement } from './walk-record.ts'

const ParameterItem = Type.Object({
  name: Type.String(),
  field: Type.String({ description: 'the field that it is compared with' }),
  type: Type.String(),
  optional: Type.Boolean(),
})
export type ParameterItem = Static<typeof ParameterItem>

export const QuerySummary = Type.Object({
  name: Type.String(),
  parameters: Type.Array(ParameterItem),
  from: Type.String(),
  take: Type.Enum(['one', 'first', 'all', 'pages']),
  sentence: Type.String(),
  version: Type.Integer({ description: 'of its document' }),
  uses: Type.Array(
    Type.Object({
      route: Type.String(),
      path: Type.String(),
      data: Type.String({ description: 'name in the route’s templates' }),
      example: Nullable(Type.String({ description: 'an address that runs it' })),
    }),
    { description: 'empty if no route uses it' },
  ),
})
export type QuerySummary = Static<typeof QuerySummary>

const QueryRunRequest = Type.Object(
  {
    name: Type.String({ minLength: 1, maxLength: 60 }),
    text: Type.String({ maxLength: 20_000, description: 'the query as YAML, saved or not' }),
    parameters: Type.Record(Type.String({ maxLength: 60 }), Type.String({ maxLength: 500 }), {
      description: 'as text, read by the type of the field that each is compared with',
    }),
    page: Type.Integer({ minimum: 1, maximum: 1_000_000 }),
    cursor: Type.Optional(
      Type.String({
        maxLength: 4_000,
        description: 'where a page by cursor starts; absent for the first page',
      }),
    ),
    as: Type.Enum(['reader', 'author']),
  },
  closed,
)

export const QueryRun = Type.Object({
  problems: Type.Array(ProblemItem, { description: 'why it cannot be run; the rest is empty then' }),
  sentence: Type.String(),
  notes: Type.Array(Type.String({ description: 'what was added or is worth knowing' })),
  parameters: Type.Array(ParameterItem),
  columns: Type.Array(Type.String()),
  rows: Type.Array(Type.Array(Type.Union([Type.String(), Type.Number(), Type.Boolean(), Type.Null()]))),
  count: Type.Integer({ description: 'how many rows were returned; the first of them are shown' }),
  total: Nullable(Type.Integer()),
  isEstimated: Type.Boolean({ description: 'whether the total is PostgreSQL’s estimate' }),
  size: Nullable(Type.Integer()),
  by: Nullable(Type.Enum(['number', 'cursor'])),
  previous: Nullable(Type.String({ description: 'cursor of the previous page' })),
  next: Nullable(Type.String({ description: 'cursor of the next page' })),
  why: Nullable(Type.String({ description: 'why no rows were returned, or why in this order' })),
  statements: Type.Array(WalkStatement),
  milliseconds: Milliseconds,
  code: Type.String({ description: 'the same query as TypeORM code' }),
})
export type QueryRun = Static<typeof QueryRun>

const Step = Type.Object({
  depth: Type.Integer(),
  kind: Type.String(),
  sentence: Type.String(),
  rows: Type.Integer(),
  expected: Type.Number({ description: 'rows that the planner expected' }),
  loops: Type.Integer(),
  ownMilliseconds: Milliseconds,
  milliseconds: Milliseconds,
  pagesHit: Type.Integer(),
  pagesRead: Type.Integer(),
  table: Nullable(Type.String()),
  index: Nullable(Type.String()),
  notes: Type.Array(Type.String()),
})
export const QueryPlan = Type.Object({
  statements: Type.Array(
    Type.Object({
      what: Type.String({ description: 'e.g. the rows, or their number' }),
      sql: Type.String(),
      steps: Type.Array(Step, { description: 'each step before those below it' }),
      planningMilliseconds: Milliseconds,
      executionMilliseconds: Milliseconds,
    }),
  ),
})
export type QueryPlan = Static<typeof QueryPlan>

export const queryOperations = {
  'GET /api/queries': {
    summary: 'List the queries, each as a sentence, with the routes that use it',
    answer: Type.Array(QuerySummary),
  },
  'POST /api/query/run': {
    summary: 'Run a query, saved or not, and return its rows, its SQL and TypeORM code',
    body: QueryRunRequest,
    answer: QueryRun,
    readOnly: true,
  },
  'POST /api/query/plan': {
    summary: 'Explain how PostgreSQL runs a query: every step with its time and rows, measured',
    body: QueryRunRequest,
    answer: QueryPlan,
    readOnly: true,
  },
} as const satisfies OperationGroup
