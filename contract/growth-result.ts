/** What measuring a query as the blog grows gives (one source for type, API, and what is kept). */
import { Type, type Static } from 'typebox'
import { Nullable } from '../core/shapes/nullable.ts'

export const Measured = Type.Object({
  size: Type.Integer({ description: 'posts' }),
  index: Nullable(Type.String({ description: 'the index that was tried; null: as the blog is' })),
  by: Type.Enum(['number', 'cursor', 'whole'], { description: 'whole: it has no pages' }),
  page: Type.Enum(['first', 'middle', 'last']),
  number: Nullable(Type.Integer({ description: 'of the page' })),
  milliseconds: Type.Number({ description: 'median of its runs: statements and what is made of their rows' }),
  runs: Type.Integer(),
  rows: Type.Integer({ description: 'that came back' }),
})
export type Measured = Static<typeof Measured>

export const TriedIndex = Type.Object({
  name: Type.String(),
  on: Type.String(),
  keys: Type.Array(Type.String(), { description: 'as indexes.yaml has them' }),
  isUsed: Type.Boolean({ description: 'PostgreSQL chose it for the first page of the largest size' }),
  bytes: Type.Integer({ description: 'its size then' }),
})
export type TriedIndex = Static<typeof TriedIndex>

export const GrowthResult = Type.Object({
  query: Type.String(),
  sentence: Type.String(),
  parameters: Type.Record(Type.String(), Type.Unknown(), { description: 'what its conditions were given' }),
  sizes: Type.Array(Type.Integer()),
  totals: Type.Array(Type.Integer(), { description: 'rows that match, for each size' }),
  measured: Type.Array(Measured),
  tried: Type.Array(TriedIndex),
  /** The one that serves; null when none does better than what is there. */
  advised: Nullable(
    Type.Object({
      name: Type.String(),
      size: Type.Integer(),
      before: Type.Number({ description: 'milliseconds of the first page' }),
      after: Type.Number(),
    }),
  ),
  serving: Type.Array(Type.String(), { description: 'indexes that PostgreSQL uses as the blog is' }),
  readsAll: Type.Array(Type.String(), { description: 'tables it reads from end to end as the blog is' }),
  notes: Type.Array(Type.String()),
  machine: Type.String(),
  milliseconds: Type.Number({ description: 'that measuring took' }),
})
export type GrowthResult = Static<typeof GrowthResult>

export const GROWTH_SIZES = [1_000, 10_000, 100_000, 1_000_000] as const
