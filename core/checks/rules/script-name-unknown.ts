/** Finds names in scripts that neither a script of the blog nor a browser has. */
import { closestName } from '../../shapes/suggest-name.ts'
import { assetPath } from '../../shapes/documents.ts'
import { placeText, witness, type Rule } from '../rule.ts'
import { globalNames, unknownNames } from '../script-names.ts'

export const scriptNameUnknown: Rule = {
  id: 'script-name-unknown',
  area: 'templates',
  meaning: 'A script uses a name that neither a script of the blog nor a browser has.',
  why: 'The script stops there with an error that readers do not see, maybe only after a click.',
  run({ definition: { assets } }) {
    const scripts = [...assets].filter(([name]) => name.endsWith('.js'))
    const known = new Set(scripts.flatMap(([, text]) => globalNames(text) ?? []))
    const findings = scripts.flatMap(([asset, text]) => {
      const document = assetPath(asset)
      return unknownNames(text, known).map(({ name, line, isCall }) => {
        const meant = closestName(name, [...known])
        return {
          subject: `${document} ${name}`,
          title: `${placeText(document, line)}: ${isCall ? 'the function ' : ''}“${name}” is not defined`,
          detail: meant === undefined ? '' : `Did you mean “${meant}”?`,
          affects: 'now' as const,
          witness: witness(null, `ReferenceError: ${name} is not defined`, name, meant ?? 'a declared name'),
          cause: 'It was mistyped, removed, or is in a library that is not loaded.',
          place: { document, line },
          others: [],
          fixes: [],
        }
      })
    })
    return Promise.resolve({
      findings,
      claim: {
        sentence: 'Every name that scripts use is declared in a script of the blog, or known to browsers',
        tested: scripts.length,
        things: ['script', 'scripts'],
      },
    })
  },
}
