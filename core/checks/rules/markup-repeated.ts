/** Finds elements that a template has twice, one right after the other. */
import { shorten } from '../../content/text.ts'
import { pageOfTemplate } from '../page-place.ts'
import { lineAt, placeText, saveFix, witness, type Rule, type RuleFinding } from '../rule.ts'
import { repeatedElements } from '../repeated-elements.ts'

export const markupRepeated: Rule = {
  id: 'markup-repeated',
  area: 'templates',
  meaning: 'A template has the same element twice, one right after the other.',
  why: 'Readers see the same thing two times.',
  async run(facts) {
    const templates = [...facts.documents].filter(([path]) => path.startsWith('templates/'))
    const findings: RuleFinding[] = []
    for (const [document, text] of templates)
      for (const { name, text: element, at } of repeatedElements(text)) {
        const line = lineAt(text, at)
        const shown = shorten(element.replace(/\s+/g, ' '), 80)
        const rest = text.slice(at + element.length)
        findings.push({
          subject: `${placeText(document, line)} ${name}`,
          title: `${document} has the same <${name}> twice`,
          detail: `${shown} is written twice, one right after the other.`,
          affects: 'possibly',
          witness: witness(
            await pageOfTemplate(facts, document),
            `${placeText(document, line)} repeats the element before it`,
            shown,
          ),
          cause: 'It was copied, and not changed.',
          place: { document, line },
          others: [],
          fixes: saveFix(
            document,
            text.slice(0, at) + rest,
            'Remove the second one',
            'The element is printed once.',
          ),
        })
      }
    return {
      findings,
      claim: {
        sentence: 'No template is known to have the same element twice in a row',
        tested: templates.length,
        things: ['template', 'templates'],
      },
    }
  },
}
