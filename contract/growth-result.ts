/** The result of measuring a query while the blog grows. The API and the database store the same shape. */
import { Type, type Static } from 'typebox'
import { Nullable } from '../core/shapes/nullable.ts'

export const Measured = Type.Object({
  size: Type.Integer({ description: 'posts' }),
  index: Nullable(Type.String({ description: 'the index that was tried; null without an additional one' })),
  by: Type.Enum(['number', 'cursor', 'whole'], { description: 'whole: the query is not paged' }),
  page: Type.Enum(['first', 'middle', 'last']),
  number: Nullable(Type.Integer({ description: 'the number of the page' })),
  milliseconds: Type.Number({ description: 'median of the runs, with the conversion of rows' }),
  runs: Type.Integer(),
  rows: Type.Integer({ description: 'how many rows were returned' }),
})
export type Measured = Static<typeof Measured>

export const TriedIndex = Type.Object({
  name: Type.String(),
  on: Type.String(),
  keys: Type.Array(Type.String(), { description: 'as in indexes.yaml' }),
  isUsed: Type.Boolean({ description: 'whether PostgreSQL used it for the first page at the largest size' }),
  bytes: Type.Integer({ description: 'its size at the largest size of the blog' }),
})
export type TriedIndex = Static<typeof TriedIndex>

export const GrowthResult = Type.Object({
  query: Type.String(),
  sentence: Type.String(),
  parameters: Type.Record(Type.String(), Type.Unknown(), { description: 'the values of its conditions' }),
  sizes: Type.Array(Type.Integer()),
  totals: Type.Array(Type.Integer(), { description: 'how many rows match at each size' }),
  measured: Type.Array(Measured),
  tried: Type.Array(TriedIndex),
  /** The index to add; null if none is faster than the existing ones. */
  advised: Nullable(
    Type.Object({
      name: Type.String(),
      size: Type.Integer(),
      before: Type.Number({ description: 'milliseconds of the first page' }),
      after: Type.Number(),
    }),
  ),
  serving: Type.Array(Type.String(), {
    description: 'indexes that PostgreSQL uses without an additional one',
  }),
  readsAll: Type.Array(Type.String(), {
    description: 'tables that it scans completely without an additional one',
  }),
  notes: Type.Array(Type.String()),
  machine: Type.String(),
  milliseconds: Type.Number({ description: 'how long the measurement took' }),
})
export type GrowthResult = Static<typeof GrowthResult>

export const GROWTH_SIZES = [1_000, 10_000, 100_000, 1_000_000] as const
