/** Finds pages whose markup is not valid. */
import { isOfNames } from './markup-unnamed.ts'
import { markupRule } from '../markup-rule.ts'

export const markupInvalid = markupRule({
  id: 'markup-invalid',
  meaning: 'The markup of a page does not follow the HTML standard.',
  why: 'Browsers correct invalid markup in different ways. Text can move, links can end early, and styles can apply to the wrong elements.',
  isOwn: (rule) => !isOfNames(rule),
  claim: 'The validated pages follow the HTML standard',
  cause: 'A template prints it, or it is in a post or page.',
})
