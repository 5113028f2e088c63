/** Finds elements with an attribute that HTML does not know, or without the one that they need. */
import { templateAttributeFaults } from '../html-attributes.ts'
import { pageOfTemplate } from '../page-place.ts'
import { lineAt, placeText, saveFix, witness, type Rule, type RuleFinding } from '../rule.ts'

export const attributeWrong: Rule = {
  id: 'attribute-wrong',
  area: 'templates',
  meaning:
    'A template has an attribute or a link type that HTML does not know, a link without an address, an image without an alternative text, a label of no field, or a <meta> that says nothing.',
  why: 'Browsers ignore it without a message: a class is not applied, or a link leads nowhere.',
  async run(facts) {
    const templates = [...facts.documents].filter(([path]) => path.startsWith('templates/'))
    const findings: RuleFinding[] = []
    for (const [document, text] of templates)
      for (const { attribute, markup, message, meant, at } of templateAttributeFaults(text)) {
        const line = lineAt(text, at)
        const written = attribute === 'rel' ? (/rel="([^"]*)"/.exec(markup)?.[1] ?? '') : attribute
        const tag = text.slice(at).replace(/>.*/s, '>')
        const corrected = meant === null ? tag : tag.replace(new RegExp(`\\b${written}\\b`), meant)
        findings.push({
          subject: `${placeText(document, line)} ${markup}`,
          title: `${document}: ${message.replace(/\.$/, '')}`,
          detail: `The tag is ${markup}${meant === null ? '.' : `. Did you mean “${meant}”?`}`,
          affects: 'now',
          witness: witness(await pageOfTemplate(facts, document), message, markup, meant),
          cause: 'It was mistyped or forgotten, or belongs to another element.',
          place: { document, line },
          others: [],
          fixes:
            corrected === tag
              ? []
              : saveFix(
                  document,
                  text.slice(0, at) + corrected + text.slice(at + tag.length),
                  `Replace “${written}” with “${meant ?? ''}”`,
                  'Browsers know the attribute.',
                ),
        })
      }
    return {
      findings,
      claim: {
        sentence: 'The elements in templates have attributes that HTML knows, and those that they need',
        tested: templates.length,
        things: ['template', 'templates'],
      },
    }
  },
}
