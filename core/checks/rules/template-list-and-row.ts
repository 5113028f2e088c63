/** Finds lists that templates use as a row, and rows that they use as a list. */
import { templateRule } from '../template-rule.ts'

export const templateListAndRow = templateRule({
  id: 'template-list-and-row',
  meaning: 'A template reads a field of a list, or loops over a single row.',
  why: 'A field of a list prints nothing. A loop over a row goes through its fields.',
  kinds: ['list-as-row', 'row-as-list'],
  claim: 'No template is known to use a list as a row, or a row as a list',
  title: ({ template, subject, kind }) =>
    kind === 'list-as-row'
      ? `${template} reads “${subject}” from a list`
      : `${template} loops over “${subject}”, which is not a list`,
  actual: ({ kind }) => (kind === 'list-as-row' ? 'nothing' : 'fields'),
  expected: ({ kind }) => (kind === 'list-as-row' ? 'a value' : 'items'),
  cause: ({ message }) => message,
  fix: {
    replace: (text, { kind, subject, hint }) =>
      kind === 'row-as-list' && hint.includes(`${subject}.items`) && text.startsWith(subject)
        ? `${subject}.items${text.slice(subject.length)}`
        : undefined,
    label: ({ subject }) => `Loop over ${subject}.items`,
    after: ({ subject }) => `The loop goes through the items of “${subject}”.`,
  },
})
