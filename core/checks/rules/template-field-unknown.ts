/** Finds fields in templates that their values do not have. */
import { templateRule, withMeant } from '../template-rule.ts'

export const templateFieldUnknown = templateRule({
  id: 'template-field-unknown',
  meaning: 'A template reads a field that its value does not have.',
  why: 'It prints nothing, and a condition on it never holds.',
  kinds: ['field-unknown'],
  claim: 'Every field that templates read exists',
  title: ({ template, subject }) => `${template} reads “${subject}”, which does not exist`,
  actual: () => 'nothing',
  expected: () => 'a value',
  cause: ({ message }) => message,
  mend: withMeant,
})
