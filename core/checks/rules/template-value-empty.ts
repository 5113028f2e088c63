/** Finds values in addresses that may be empty, and fields of rows that may be absent. */
import { templateRule } from '../template-rule.ts'

export const templateValueEmpty = templateRule({
  id: 'template-value-empty',
  meaning:
    'A template builds an address from a value that may be empty, or shows a field of a row that may be absent, without checking it.',
  why: 'If the value is empty, the page fails, has a broken link, or shows a gap such as “by  on 2 March”.',
  kinds: ['may-be-empty', 'row-absent'],
  claim:
    'No parameter of “url”, no value printed as href or src, and no row whose field is shown is known to be possibly empty',
  title: ({ template, subject }) => `${template} does not check whether “${subject}” is empty`,
  actual: () => 'no value if the field is empty',
  expected: () => 'a value, or nothing at all',
  cause: ({ message }) => message,
})
