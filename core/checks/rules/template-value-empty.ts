/** Finds values in addresses that may be empty. */
import { templateRule } from '../template-rule.ts'

export const templateValueEmpty = templateRule({
  id: 'template-value-empty',
  meaning: 'A template builds an address from a value that may be empty, without checking it.',
  why: 'If the value is empty, the page fails or has a broken link.',
  kinds: ['may-be-empty'],
  claim: 'No parameter of “url”, and no value printed as href or src, is known to be possibly empty',
  title: ({ template, subject }) => `${template} does not check whether “${subject}” is empty`,
  actual: () => 'no value if the field is empty',
  expected: () => 'a value, or no link',
  cause: ({ message }) => message,
})
