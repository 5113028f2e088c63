/** Finds dates that are printed without a format. */
import { templateRule } from '../template-rule.ts'

export const templateDateUnformatted = templateRule({
  id: 'template-date-unformatted',
  meaning: 'A template prints a date as text without a format.',
  why: 'Readers see the date in a technical format, and in UTC instead of the time zone of the blog.',
  kinds: ['date-unformatted'],
  claim: 'No date is known to be printed as text without a format',
  title: ({ template, subject }) => `${template} prints “${subject}” without a format`,
  actual: () => '2026-03-02T09:00:00.000Z',
  expected: () => '2 March 2026',
  cause: ({ message }) => message,
  fix: {
    replace: (text, { subject }) =>
      text.startsWith(`{{ ${subject} }}`)
        ? text.replace(`{{ ${subject} }}`, `{{ ${subject} | date: '%-d %B %Y' }}`)
        : undefined,
    label: () => 'Add a format',
    after: () => 'The date is printed like 2 March 2026.',
  },
})
