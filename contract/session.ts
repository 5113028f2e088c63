/** Operations for the workbench itself. */
import { Type, type Static } from 'typebox'
import type { OperationGroup } from './operation.ts'

export const Session = Type.Object({
  title: Type.String(),
  blog: Type.String({ description: 'origin under which readers reach the blog' }),
  version: Type.String({ description: 'version of the definition in force' }),
  start: Type.String({ description: 'the address to walk first' }),
})
export type Session = Static<typeof Session>

export const sessionOperations = {
  'GET /api/session': { summary: 'Describe the blog of this workbench', answer: Session },
} as const satisfies OperationGroup
