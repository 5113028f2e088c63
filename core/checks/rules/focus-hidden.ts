/** Finds styles that hide which link or field has the focus. */
import { hiddenFocus } from '../style-faults.ts'
import { styleFinding } from '../style-finding.ts'
import type { Rule } from '../rule.ts'

export const focusHidden: Rule = {
  id: 'focus-hidden',
  area: 'templates',
  meaning: 'A stylesheet removes the outline of what has the focus, and shows the focus in no other way.',
  why: 'People who use a keyboard cannot see where they are (WCAG 2.4.7).',
  run({ definition: { assets } }) {
    const findings = hiddenFocus(assets).map((fault) =>
      styleFinding(fault, assets.get(fault.asset) ?? '', {
        cause: 'Give :focus-visible an outline that can be seen.',
        fixes: [],
      }),
    )
    const tested = [...assets.keys()].filter((one) => one.endsWith('.css')).length
    return Promise.resolve({
      findings,
      claim: { sentence: 'No stylesheet hides the focus', tested, things: ['stylesheet', 'stylesheets'] },
    })
  },
}
