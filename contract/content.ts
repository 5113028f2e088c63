/** Operations on content as a whole: how much there is, and what was deleted. */
import { Type, type Static } from 'typebox'
import { DELETED_KINDS } from '../core/shapes/content-kinds.ts'
import { closed, LARGEST_ID, Purged, Time } from './fields.ts'
import type { OperationGroup } from './operation.ts'

const Count = Type.Integer({ minimum: 0 })

const DeletedItem = Type.Object({
  id: Type.Integer(),
  name: Type.String({ description: 'slug, path or name' }),
  title: Type.String(),
  deletedAt: Time,
})
export type DeletedItem = Static<typeof DeletedItem>

export const contentOperations = {
  'GET /api/content': {
    summary: 'Count the content',
    answer: Type.Object({
      posts: Count,
      pages: Count,
      categories: Count,
      tags: Count,
      authors: Count,
      images: Count,
    }),
  },
  'GET /api/deleted': {
    summary: 'List what can be restored, newest first',
    query: Type.Object({ kind: Type.Enum([...DELETED_KINDS]) }, closed),
    answer: Type.Array(DeletedItem),
  },
  'POST /api/deleted/restore': {
    summary: 'Restore what was deleted, with everything that was deleted with it',
    body: Type.Object({ deleted: Type.Integer({ minimum: 1, maximum: LARGEST_ID }) }, closed),
    answer: Type.Object({ kind: Type.Enum([...DELETED_KINDS]), name: Type.String(), purged: Purged }),
  },
} as const satisfies OperationGroup
