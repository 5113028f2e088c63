/** Operations for the workbench itself. */
import { Type, type Static } from 'typebox'
import { closed, Time } from './fields.ts'
import type { OperationGroup } from './operation.ts'

export const Session = Type.Object({
  title: Type.String(),
  blog: Type.String({ description: 'origin under which readers reach the blog' }),
  version: Type.String({ description: 'version of the definition in force' }),
  start: Type.String({ description: 'the address to walk first' }),
})
export type Session = Static<typeof Session>

export const SignedInBrowser = Type.Object({
  id: Type.String(),
  browser: Type.String({ description: 'User-Agent' }),
  since: Time,
  seen: Time,
})
export type SignedInBrowser = Static<typeof SignedInBrowser>

export const sessionOperations = {
  'GET /api/sessions': {
    summary: 'List the browsers that are signed in, the latest first',
    answer: Type.Array(SignedInBrowser),
  },
  'DELETE /api/sessions': {
    summary: 'Sign out a browser',
    query: Type.Object({ id: Type.String({ maxLength: 60 }) }, closed),
    answer: Type.Object({ ended: Type.Boolean() }),
  },
  'GET /api/session': { summary: 'Describe the blog of this workbench', answer: Session },
} as const satisfies OperationGroup
