/** Finds arguments of partials that are missing, or have none of the fields that the partial reads. */
import { templateRule } from '../template-rule.ts'

export const templateArgumentWrong = templateRule({
  id: 'template-argument-wrong',
  meaning: 'A template passes a partial another value than the partial reads, or forgets one that it reads.',
  why: 'The partial shows nothing, or what it shows for an absent value.',
  kinds: ['argument-wrong', 'argument-missing'],
  claim: 'No partial is known to lack a value that it reads, or to get one of another kind',
  title: ({ template, kind, subject }) =>
    kind === 'argument-wrong'
      ? `${template} passes “${subject}” to a partial that reads other fields`
      : `${template} does not pass “${subject}” to a partial that reads it`,
  actual: ({ kind, subject }) => (kind === 'argument-wrong' ? subject : 'no argument'),
  expected: ({ hint }) => hint,
  cause: ({ message }) => message,
})
