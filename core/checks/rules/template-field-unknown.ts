/** Finds unknown fields in templates. */
import { correctName, templateRule } from '../template-rule.ts'

export const templateFieldUnknown = templateRule({
  id: 'template-field-unknown',
  meaning: 'A template reads a field that its value does not have.',
  why: 'An unknown field prints nothing, and a condition on it never holds.',
  kinds: ['field-unknown'],
  claim: 'No template reads an unknown field of a value whose type is known',
  title: ({ template, subject }) => `${template} reads the unknown field “${subject}”`,
  actual: () => 'nothing',
  expected: () => 'a value',
  cause: ({ message }) => message,
  fix: correctName,
})
