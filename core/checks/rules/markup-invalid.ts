/** Finds pages whose markup is not valid. */
import { isOfNames } from './markup-unnamed.ts'
import { markupRule } from '../markup-rule.ts'

export const markupInvalid = markupRule({
  id: 'markup-invalid',
  meaning: 'The markup of a page does not follow the HTML standard.',
  why: 'Browsers guess what was meant, and not always alike: text moves, links end early, styles and scripts miss elements.',
  isOwn: (rule) => !isOfNames(rule),
  claim: 'The markup of every page validated follows the HTML standard',
  cause: 'A template or a text that the page shows prints it.',
})
