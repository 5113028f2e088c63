/** Finds names in templates that have no value. */
import { correctName, templateRule } from '../template-rule.ts'

export const templateNameUnknown = templateRule({
  id: 'template-name-unknown',
  meaning: 'A template reads a name that has no value on any page that renders it.',
  why: 'An unknown name prints nothing, and a condition on it never holds.',
  kinds: ['name-unknown'],
  claim: 'Every name in a template has a value on a page that renders it',
  title: ({ template, subject }) => `${template} reads the unknown name “${subject}”`,
  actual: () => 'nothing',
  expected: () => 'a value',
  cause: ({ subject }) =>
    `“${subject}” is not in the data of the route. It is not an argument, a variable or one of the names that all templates see, either.`,
  fix: correctName,
})
