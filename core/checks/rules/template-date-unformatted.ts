/** Finds dates that are printed as they are stored. */
import { templateRule } from '../template-rule.ts'

export const templateDateUnformatted = templateRule({
  id: 'template-date-unformatted',
  meaning: 'A template prints a date without a format.',
  why: 'Readers see a date for machines, in another time zone than the blog’s.',
  kinds: ['date-unformatted'],
  claim: 'Every printed date has a format',
  title: ({ template, subject }) => `${template} prints “${subject}” without a format`,
  actual: () => '2026-03-02T09:00:00.000Z',
  expected: () => '2 March 2026',
  cause: ({ message }) => message,
  mend: (line, { subject }) => {
    const mended = line.replace(`{{ ${subject} }}`, `{{ ${subject} | date: '%-d %B %Y' }}`)
    return mended === line ? undefined : mended
  },
})
