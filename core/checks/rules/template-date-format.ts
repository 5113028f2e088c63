/** Finds date formats in templates that print no part of the date, or the wrong one. */
import { templateRule } from '../template-rule.ts'

export const templateDateFormat = templateRule({
  id: 'template-date-format',
  meaning: 'The format of a date prints no part of it, or the wrong part.',
  why: 'Readers see a date that is not the date of the post, or letters such as DD.MM.YYYY.',
  kinds: ['date-format-wrong'],
  claim: 'No template is known to have a wrong date format',
  title: ({ template, subject }) => `${template} prints “${subject}” in a wrong format`,
  actual: ({ message }) => /“([^”]*)”/.exec(message)?.[1] ?? '',
  expected: () => '%-d %B %Y',
  cause: ({ message, hint }) => `${message} ${hint}`,
})
