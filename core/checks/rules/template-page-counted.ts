/** Finds the number of rows on a page of a listing, printed as if it were the number of all rows. */
import { templateRule } from '../template-rule.ts'

const totalOf = (subject: string) => `${subject.replace(/\.items(\.size)?$/, '')}.total`

export const templatePageCounted = templateRule({
  id: 'template-page-counted',
  meaning: 'A template prints how many rows a page of a listing has, and not how many there are.',
  why: 'Readers see “6 posts” where there are 42, and another number on the last page.',
  kinds: ['page-counted'],
  claim: 'No template is known to print the number of rows on a page as the number of all rows',
  title: ({ template }) =>
    `${template} prints the number of rows on a page as if it were the number of all rows`,
  actual: ({ subject }) => subject,
  expected: ({ subject }) => totalOf(subject),
  cause: ({ message, hint }) => `${message} ${hint}`,
  fix: {
    replace: (text, { subject }) => {
      const written = [`{{ ${subject} }}`, `{{ ${subject} | size }}`].find((one) => text.startsWith(one))
      return written && text.replace(written, () => `{{ ${totalOf(subject)} }}`)
    },
    label: ({ subject }) => `Print “${totalOf(subject)}”`,
    after: () => 'Every page of the listing shows the number of all rows.',
  },
})
