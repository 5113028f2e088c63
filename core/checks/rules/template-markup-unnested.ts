/** Finds elements that templates do not close, also in branches that no page shows at the moment. */
import { templateRule } from '../template-rule.ts'

export const templateMarkupUnnested = templateRule({
  id: 'template-markup-unnested',
  meaning: 'A template opens an element and does not close it, or closes one that is not open.',
  why: 'Browsers guess where it ends, so the rest of the page may be inside it.',
  kinds: ['markup-unnested'],
  claim: 'Every template closes the elements that it opens, as far as that is certain',
  title: ({ template, message }) => `${template}: ${message.replace(/\.$/, '')}`,
  actual: ({ subject }) => subject,
  expected: ({ subject }) =>
    subject.startsWith('</') ? subject.replace('/', '') : subject.replace('<', '</'),
  cause: ({ message, hint }) => `${message} ${hint}`,
})
