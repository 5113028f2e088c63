/** Finds stylesheets and scripts that do not parse. */
import { assetPath } from '../../shapes/documents.ts'
import { assetFaults } from '../asset-faults.ts'
import { placeText, witness, type Rule } from '../rule.ts'

export const assetInvalid: Rule = {
  id: 'asset-invalid',
  area: 'templates',
  meaning: 'A stylesheet or a script does not parse.',
  why: 'Browsers skip the rule with the fault, or do not run the script at all, without a message for readers.',
  run({ definition: { assets } }) {
    const findings = [...assets].flatMap(([name, text]) => {
      const document = assetPath(name)
      return assetFaults(name, text).map(({ line, message }) => ({
        subject: `${document}:${line}`,
        title: `${placeText(document, line)}: ${message.replace(/\.$/, '')}`,
        detail: text.split('\n')[line - 1]?.trim() ?? '',
        affects: 'now' as const,
        witness: witness(null, message),
        cause: 'A parser of the language stops there.',
        place: { document, line },
        others: [],
        fixes: [],
      }))
    })
    const tested = [...assets.keys()].filter((one) => /\.(css|js)$/.test(one)).length
    return Promise.resolve({
      findings,
      claim: { sentence: 'Every stylesheet and script parses', tested, things: ['file', 'files'] },
    })
  },
}
