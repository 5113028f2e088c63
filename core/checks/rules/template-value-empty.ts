/** Finds values in addresses that may be empty. */
import { templateRule } from '../template-rule.ts'

export const templateValueEmpty = templateRule({
  id: 'template-value-empty',
  meaning: 'A template puts a value that may be empty into an address, without a condition.',
  why: 'Where it is empty, the page fails or has a link that leads nowhere.',
  kinds: ['may-be-empty'],
  claim: 'No value in an address can be empty',
  title: ({ template, subject }) => `${template} needs “${subject}”, which may be empty`,
  actual: () => 'nothing, where the row has no value',
  expected: () => 'a value, or no link',
  cause: ({ message }) => message,
  mend: () => undefined,
})
