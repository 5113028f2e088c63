/** Operations for measuring queries while the blog grows, and for the blog's own indexes. */
import { Type, type Static } from 'typebox'
import { Nullable } from '../core/shapes/nullable.ts'
import { closed, Time } from './fields.ts'
import { GROWTH_SIZES, GrowthResult } from './growth-result.ts'
import type { OperationGroup } from './operation.ts'

export const GrowthReport = Type.Object({
  running: Nullable(
    Type.Object({
      queries: Type.Array(Type.String()),
      sizes: Type.Array(Type.Integer()),
      doing: Type.String({ description: 'the current step' }),
      share: Type.Number({ description: '0 … 1' }),
      startedAt: Time,
    }),
  ),
  failure: Nullable(
    Type.Object({ queries: Type.Array(Type.String()), message: Type.String(), isCancelled: Type.Boolean() }),
  ),
  results: Type.Array(
    Type.Object({
      id: Type.Integer(),
      at: Time,
      isCurrent: Type.Boolean({ description: 'false if the query has changed since' }),
      result: GrowthResult,
      /** indexes.yaml with the advised index, if it does not have it yet. */
      acceptance: Nullable(Type.Object({ text: Type.String(), version: Type.Integer() })),
    }),
    { description: 'newest first' },
  ),
})
export type GrowthReport = Static<typeof GrowthReport>

export const OwnIndexItem = Type.Object({
  name: Type.String(),
  on: Type.String(),
  keys: Type.Array(Type.String()),
  state: Type.Enum(['waiting', 'building', 'ready', 'failed']),
  problem: Nullable(Type.String()),
  bytes: Nullable(Type.Integer()),
})
export type OwnIndexItem = Static<typeof OwnIndexItem>

export const growthOperations = {
  'GET /api/growth': {
    summary: 'Return the measurements of queries, and the progress of the current one',
    query: Type.Object({ query: Type.Optional(Type.String({ maxLength: 60 })) }, closed),
    answer: GrowthReport,
  },
  'POST /api/growth': {
    summary: 'Measure queries with generated posts in a separate database; one measurement at a time',
    body: Type.Object(
      {
        queries: Type.Array(Type.String({ maxLength: 60 }), { minItems: 1, maxItems: 100 }),
        sizes: Type.Array(Type.Enum([...GROWTH_SIZES]), { minItems: 1, maxItems: 4, uniqueItems: true }),
      },
      closed,
    ),
    answer: GrowthReport,
  },
  'DELETE /api/growth': {
    summary: 'Cancel the measurement; answers once its database is deleted',
    answer: GrowthReport,
  },
  'GET /api/indexes': {
    summary: 'List the indexes of the definition and their states',
    answer: Type.Array(OwnIndexItem),
  },
} as const satisfies OperationGroup
