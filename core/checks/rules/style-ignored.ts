/** Finds declarations in stylesheets that browsers ignore. */
import { assetPath } from '../../shapes/documents.ts'
import { crawl } from '../crawl.ts'
import { lineOfText, saveFix, type Rule } from '../rule.ts'
import { styleFinding } from '../style-finding.ts'
import { ignoredDeclarations, misspeltClasses, signlessSelectors, unknownFeatures } from '../style-faults.ts'

export const styleIgnored: Rule = {
  id: 'style-ignored',
  area: 'templates',
  meaning:
    'A declaration in a stylesheet has a misspelt property, keyword or colour, or a variable that is not set, or a selector or media query names a class or a feature that is misspelt.',
  why: 'Browsers ignore it without a message.',
  async run(facts) {
    const { assets } = facts.definition
    const { pages } = await crawl(facts)
    const faults = [
      ...ignoredDeclarations(assets),
      ...unknownFeatures(assets),
      ...misspeltClasses(assets, new Set(pages.flatMap((one) => [...one.classes])), (word) =>
        [...facts.documents].some(([path, text]) => !path.endsWith('.css') && text.includes(word)),
      ),
      ...signlessSelectors(assets, {
        classes: new Set(pages.flatMap((one) => [...one.classes])),
        ids: new Set(pages.flatMap((one) => [...one.ids])),
        elements: new Set(pages.flatMap((one) => [...one.elements])),
      }),
    ]
    const findings = faults.map((fault) => {
      const document = assetPath(fault.asset)
      const text = assets.get(fault.asset) ?? ''
      const line = lineOfText(text, fault.line)
      const { actual, expected } = fault
      const isCertain = expected !== null && !expected.includes(', ') && line.split(actual).length === 2
      return styleFinding(fault, text, {
        cause: expected === null ? 'Set it, or give a fallback.' : `Did you mean “${expected}”?`,
        fixes: isCertain
          ? saveFix(
              document,
              text
                .split('\n')
                .map((one, index) => (index === fault.line - 1 ? one.replace(actual, expected) : one))
                .join('\n'),
              `Replace “${actual}” with “${expected}”`,
              'Browsers apply the declaration.',
            )
          : [],
      })
    })
    const tested = [...assets.keys()].filter((one) => one.endsWith('.css')).length
    return {
      findings,
      claim: {
        sentence:
          'No stylesheet has a misspelt property, class or media feature, a variable that is not set, or a class without its dot',
        tested,
        things: ['stylesheet', 'stylesheets'],
      },
    }
  },
}
