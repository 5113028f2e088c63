/** Finds outputs of templates that print nothing, a technical value, or a text that has lost its markup. */
import { templateRule } from '../template-rule.ts'

export const templatePrintWrong = templateRule({
  id: 'template-print-wrong',
  meaning:
    'A template prints a row in place of a field, a slug in place of a name, the current time for each row of a list, or a text that has lost its markup.',
  why: 'Readers see nothing there, or something that is meant for machines.',
  kinds: ['row-printed', 'slug-shown', 'markup-lost', 'now-in-loop', 'cut-to-nothing'],
  claim: 'No output of a template is known to print nothing or the wrong kind of value',
  title: ({ template, message }) => `In ${template}, ${message.replace(/\.$/, '')}`,
  actual: ({ subject }) => `{{ ${subject} }}`,
  expected: ({ hint }) => hint.replace(/\.$/, ''),
  cause: ({ message, hint }) => `${message} ${hint}`,
})
