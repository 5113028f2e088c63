/** Finds lists that templates use as one row, and rows that they use as a list. */
import { templateRule } from '../template-rule.ts'

export const templateListAndRow = templateRule({
  id: 'template-list-and-row',
  meaning: 'A template reads a field of a list, or loops over one row.',
  why: 'It prints nothing, or something else than the items.',
  kinds: ['list-as-row', 'row-as-list'],
  claim: 'Templates loop over lists, and read fields of rows',
  title: ({ template, subject, kind }) =>
    kind === 'list-as-row'
      ? `${template} reads “${subject}” of a list`
      : `${template} loops over “${subject}”, which is not a list`,
  actual: ({ kind }) => (kind === 'list-as-row' ? 'nothing' : 'names and values of fields'),
  expected: ({ kind }) => (kind === 'list-as-row' ? 'a value' : 'the items of a list'),
  cause: ({ message }) => message,
  mend: (line, { kind, subject, hint }) =>
    kind === 'row-as-list' && hint.includes(`${subject}.items`)
      ? line.replace(` in ${subject}`, ` in ${subject}.items`)
      : undefined,
})
