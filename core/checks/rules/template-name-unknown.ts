/** Finds names in templates that have no value. */
import { correctName, templateRule } from '../template-rule.ts'

export const templateNameUnknown = templateRule({
  id: 'template-name-unknown',
  meaning:
    'A template reads a name that has no value on any page that renders it, or compares the route with a name that no route has.',
  why: 'An unknown name prints nothing, and a condition on it never holds.',
  kinds: ['name-unknown', 'route-unknown'],
  claim: 'Every name in a template has a value on a page that renders it',
  title: ({ template, subject, kind }) =>
    kind === 'route-unknown'
      ? `${template} compares the route with “${subject}”, which no route is called`
      : `${template} reads the unknown name “${subject}”`,
  actual: ({ kind, subject }) => (kind === 'route-unknown' ? subject : 'nothing'),
  expected: ({ kind, meant }) => (kind === 'route-unknown' ? (meant ?? 'the name of a route') : 'a value'),
  cause: ({ subject, kind, message }) =>
    kind === 'route-unknown'
      ? message
      : `“${subject}” is not in the data of the route. It is not an argument, a variable or one of the names that all templates see, either.`,
  fix: correctName,
})
