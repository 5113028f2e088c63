/** Operations of the steps in which a blog is built: their states, drafts, and sample posts. */
import { Type, type Static } from 'typebox'
import { BUILDING_STEPS, DRAFTED_STEPS, LOOKS } from '../core/shapes/building.ts'
import { ChangeStep } from '../core/shapes/changes.ts'
import { Nullable } from '../core/shapes/nullable.ts'
import { closed, Purged } from './fields.ts'
import type { OperationGroup } from './operation.ts'

export const BuildingStep = Type.Object({
  id: Type.Enum([...BUILDING_STEPS]),
  isDone: Type.Boolean(),
  evidence: Nullable(Type.String({ description: 'what the blog has answered, as a sentence' })),
  address: Nullable(Type.String({ description: 'an address that shows it' })),
})
export type BuildingStep = Static<typeof BuildingStep>

export const buildingOperations = {
  'GET /api/building': {
    summary: 'Ask the blog which of the steps are done in which a blog is built',
    answer: Type.Object({
      isNew: Type.Boolean({ description: 'whether there are no posts, or no list of them' }),
      steps: Type.Array(BuildingStep),
    }),
  },
  'POST /api/building/draft': {
    summary: 'Draft a step as changes, without saving them',
    body: Type.Object(
      { step: Type.Enum([...DRAFTED_STEPS]), look: Type.Optional(Type.Enum([...LOOKS])) },
      closed,
    ),
    answer: Type.Object({
      steps: Type.Array(ChangeStep),
      kept: Type.Array(Type.String(), {
        description:
          'documents that would have been changed, and that stay because their author has changed them',
      }),
    }),
    readOnly: true,
  },
  'POST /api/building/samples': {
    summary: 'Add sample posts, with their categories, authors, tags, pages and images',
    answer: Type.Object({ posts: Type.Integer(), drafts: Type.Integer(), purged: Purged }),
  },
} as const satisfies OperationGroup
