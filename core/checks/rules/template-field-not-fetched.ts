/** Finds fields in templates that queries do not fetch. */
import { templateRule } from '../template-rule.ts'

export const templateFieldNotFetched = templateRule({
  id: 'template-field-not-fetched',
  meaning: 'A template prints a field that the query of the page does not fetch.',
  why: 'The field is empty on this page although the row has a value.',
  kinds: ['field-not-fetched'],
  claim: 'Queries fetch every field that a template is known to print',
  title: ({ template, subject }) => `${template} prints “${subject}”, which is not fetched`,
  actual: () => 'nothing',
  expected: () => 'the value of the row',
  cause: ({ hint }) => `The query does not fetch it. ${hint}`,
})
