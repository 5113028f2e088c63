/** Operations on slugs. */
import { Type, type Static } from 'typebox'
import { SlugChange } from '../core/shapes/changes.ts'
import { Nullable } from '../core/shapes/nullable.ts'
import { closed, Purged } from './fields.ts'
import type { OperationGroup } from './operation.ts'

export const SlugAnswer = Type.Object({
  slug: Type.String(),
  free: Type.Boolean({ description: 'whether it can be saved' }),
  note: Nullable(Type.String({ description: 'why not, or what to know about it' })),
  suggestion: Type.String({ description: 'a free slug' }),
  address: Nullable(Type.String({ description: 'the address that it would have' })),
})
export type SlugAnswer = Static<typeof SlugAnswer>

export const slugOperations = {
  'GET /api/slug': {
    summary: 'Check whether a slug is free, or derive one from a title',
    query: Type.Object(
      {
        kind: SlugChange.properties.kind,
        text: Type.String({ maxLength: 300 }),
        from: Type.Optional(Type.Enum(['title', 'slug'])),
        own: Type.Optional(
          Type.String({ maxLength: 500, description: 'slug, or path, of the row that is being edited' }),
        ),
      },
      closed,
    ),
    answer: SlugAnswer,
  },
  'PUT /api/slug': {
    summary: 'Change a slug, or move a page; former addresses redirect',
    body: Type.Object({ ...SlugChange.properties }, closed),
    answer: Type.Object({
      current: Type.String(),
      address: Nullable(Type.String()),
      former: Type.Array(Type.String(), { description: 'slugs or paths that redirect from now on' }),
      note: Nullable(Type.String({ description: 'what readers see instead, if another route answers' })),
      purged: Purged,
    }),
  },
} as const satisfies OperationGroup
