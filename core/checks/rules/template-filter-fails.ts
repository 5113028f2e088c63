/** Finds filters in templates that fail for the value that they get. */
import { templatePath } from '../../shapes/documents.ts'
import { templateRule } from '../template-rule.ts'
import { isPageFailure } from './page-fails.ts'

export const templateFilterFails = templateRule({
  id: 'template-filter-fails',
  meaning: 'A template passes a value to a filter that cannot take it.',
  why: 'The page answers 500 as soon as the line is rendered, which may be for few readers only.',
  kinds: ['filter-fails'],
  claim: 'No template is known to pass a value to a filter that cannot take it',
  title: ({ template, subject }) => `${template} passes “${subject}” to a filter that cannot take it`,
  actual: () => 'fails when the line is rendered',
  expected: () => 'a page',
  isReportedElsewhere: (facts, { template, place }) =>
    isPageFailure(facts, templatePath(template), place.line),
  cause: ({ message, hint }) => `${message} ${hint}`,
})
