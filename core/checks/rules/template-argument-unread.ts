/** Finds arguments that partials do not read. */
import { templateRule } from '../template-rule.ts'

export const templateArgumentUnread = templateRule({
  id: 'template-argument-unread',
  meaning: 'A template passes an argument that the partial does not read.',
  why: 'The partial does without the value, usually because of a misspelt name.',
  kinds: ['argument-unread'],
  claim: 'Every argument is read by its partial',
  title: ({ template, subject }) => `${template} passes “${subject}”, which is not read`,
  actual: () => 'an argument without an effect',
  expected: () => 'an argument that the partial reads',
  cause: ({ message }) => message,
  mend: () => undefined,
})
