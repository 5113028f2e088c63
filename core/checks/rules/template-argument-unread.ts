/** Finds arguments that partials do not read. */
import { templateRule } from '../template-rule.ts'

export const templateArgumentUnread = templateRule({
  id: 'template-argument-unread',
  meaning: 'A template passes an argument that the partial does not read.',
  why: 'The argument has no effect. Its name may be misspelt.',
  kinds: ['argument-unread'],
  claim: 'Partials read every argument that is passed to them',
  title: ({ template, subject }) => `${template} passes the unused argument “${subject}”`,
  actual: () => 'not read',
  expected: () => 'read',
  cause: ({ message }) => message,
})
