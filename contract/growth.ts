/** The API of measuring queries as the blog grows, and of the blog's own indexes. */
import { Type, type Static } from 'typebox'
import { Nullable } from '../core/shapes/nullable.ts'
import { GROWTH_SIZES, GrowthResult } from './growth-result.ts'

const closed = { additionalProperties: false } as const
const Time = Type.String({ format: 'date-time' })

export const GrowthReport = Type.Object({
  running: Nullable(
    Type.Object({
      queries: Type.Array(Type.String()),
      sizes: Type.Array(Type.Integer()),
      doing: Type.String(),
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
      isCurrent: Type.Boolean({ description: 'false: the query has changed since' }),
      result: GrowthResult,
      /** Indexes.yaml with the advised index, where it is not there yet. */
      acceptance: Nullable(Type.Object({ text: Type.String(), version: Type.Integer() })),
    }),
    { description: 'the newest first' },
  ),
})
export type GrowthReport = Static<typeof GrowthReport>

export const OwnIndexItem = Type.Object({
  name: Type.String(),
  on: Type.String(),
  keys: Type.Array(Type.String()),
  state: Type.Enum(['waiting', 'being-made', 'ready', 'failed']),
  problem: Nullable(Type.String()),
  bytes: Nullable(Type.Integer()),
})
export type OwnIndexItem = Static<typeof OwnIndexItem>

export const growthOperations = {
  'GET /api/growth': {
    summary: 'What measuring queries as the blog grows has found, and how one is going',
    query: Type.Object({ query: Type.Optional(Type.String({ maxLength: 60 })) }, closed),
    answer: GrowthReport,
  },
  'POST /api/growth': {
    summary: 'Measure queries over invented posts, in a database of its own; one at a time',
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
    summary: 'Stop measuring; answered when its database is gone',
    answer: GrowthReport,
  },
  'GET /api/indexes': {
    summary: 'The indexes that the definition asks for, and whether the tables have them',
    answer: Type.Array(OwnIndexItem),
  },
} as const
