/** Finds fields in templates that queries do not fetch. */
import { templateRule } from '../template-rule.ts'

export const templateFieldNotFetched = templateRule({
  id: 'template-field-not-fetched',
  meaning: 'A template prints a field that the query of its data does not fetch.',
  why: 'The value is empty on this page although the row has one.',
  kinds: ['field-not-fetched'],
  claim: 'Every field that templates print is fetched',
  title: ({ template, subject }) => `${template} reads “${subject}”, which is not fetched`,
  actual: () => 'nothing',
  expected: () => 'the value of the row',
  cause: ({ hint }) => hint,
  mend: () => undefined,
})
