/** Finds names in templates that no value has. */
import { templateRule, withMeant } from '../template-rule.ts'

export const templateNameUnknown = templateRule({
  id: 'template-name-unknown',
  meaning: 'A template reads a name that nothing gives it.',
  why: 'It prints nothing, and a condition on it never holds.',
  kinds: ['name-unknown'],
  claim: 'Every name that templates read is given to them',
  title: ({ template, subject }) => `${template} reads “${subject}”, which does not exist`,
  actual: () => 'nothing',
  expected: () => 'a value',
  cause: ({ subject }) =>
    `“${subject}” is neither data of the route, nor an argument, nor assigned, nor one of the names that all templates see.`,
  mend: withMeant,
})
