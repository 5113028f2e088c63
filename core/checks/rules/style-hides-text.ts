/** Finds styles that hide the content of pages, or make text too small to read. */
import { assetPath } from '../../shapes/documents.ts'
import { crawl } from '../crawl.ts'
import { styleFinding } from '../style-finding.ts'
import { hiddenText } from '../style-faults.ts'
import type { Rule } from '../rule.ts'

export const styleHidesText: Rule = {
  id: 'style-hides-text',
  area: 'templates',
  meaning: 'A stylesheet hides the main content of pages, or has text that is too small to read.',
  why: 'Readers see nothing, or have to zoom in.',
  async run(facts) {
    const { assets } = facts.definition
    const { pages } = await crawl(facts)
    const around = new Set(pages.flatMap((one) => [...one.around]))
    const findings = hiddenText(assets, around).map((fault) =>
      styleFinding(fault, assets.get(fault.asset) ?? '', {
        cause: fault.actual.startsWith('font')
          ? 'The size is in another unit than was meant.'
          : 'The rule was meant for another element.',
        fixes: [],
      }),
    )
    const tested = [...assets.keys()].filter((one) => assetPath(one).endsWith('.css')).length
    return {
      findings,
      claim: {
        sentence: 'No stylesheet hides the main content, or has text of less than 9 px',
        tested,
        things: ['stylesheet', 'stylesheets'],
      },
    }
  },
}
