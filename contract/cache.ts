/** Operations of the Cache area. */
import { Type, type Static } from 'typebox'
import type { OperationGroup } from './operation.ts'

export const CopyItem = Type.Object({
  kind: Type.Enum(['page', 'fragment']),
  key: Type.String(),
  name: Type.String(),
  bytes: Type.Integer(),
  ageMilliseconds: Type.Number(),
  remainingMilliseconds: Type.Number(),
  dependsOn: Type.Array(Type.String(), {
    description: 'results of queries, counts and rows, e.g. latest-posts() or posts:31',
  }),
})
export type CopyItem = Static<typeof CopyItem>

export const cacheOperations = {
  'GET /api/copies': {
    summary: 'List the stored copies of pages and fragments',
    answer: Type.Object({
      copies: Type.Array(CopyItem),
      bytes: Type.Integer(),
      processes: Type.Integer({
        description: 'the number of processes that serve readers, each with its own copies',
      }),
    }),
  },
  'DELETE /api/copies': {
    summary: 'Clear the cache',
    answer: Type.Object({ dropped: Type.Integer({ description: 'the number of dropped copies' }) }),
  },
} as const satisfies OperationGroup
