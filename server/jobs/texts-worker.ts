/** The worker thread of `texts.ts`. */
import { cleanSvg } from '../../core/content/html/svg.ts'
import { answerWith } from './answering.ts'
import { renderedAtOnce, type TextAnswer, type TextQuestion } from './texts.ts'

answerWith((question: TextQuestion): TextAnswer => {
  if (question.kind === 'svg') return { kind: 'svg', result: cleanSvg(question.text) }
  const { text, rules, sizes } = question
  return { kind: 'markdown', rendered: renderedAtOnce(text, rules, (address) => sizes.get(address)) }
})
