/** Finds names in scripts that neither a script of the blog nor a browser has. */
import { closestName } from '../../shapes/suggest-name.ts'
import { assetPath } from '../../shapes/documents.ts'
import { placeText, witness, type Rule } from '../rule.ts'
import { changedConstants, globalNames, misspeltMembers, unknownNames } from '../script-names.ts'
import { wrongValues } from '../script-values.ts'

export const scriptNameUnknown: Rule = {
  id: 'script-name-unknown',
  area: 'templates',
  meaning:
    'A script uses a name that neither a script of the blog nor a browser has, misspells a method, an event, an option or a selector, or changes a constant.',
  why: 'The script stops there with an error that readers do not see, perhaps only after a click.',
  run({ definition: { assets } }) {
    const scripts = [...assets].filter(([name]) => name.endsWith('.js'))
    const known = new Set(scripts.flatMap(([, text]) => globalNames(text) ?? []))
    const others = scripts.flatMap(([asset, text]) => {
      const document = assetPath(asset)
      return [
        ...changedConstants(text).map(({ name, line }) => ({
          ...{ name, line, what: `the constant “${name}” gets another value` },
          ...{
            actual: `${name} = …`,
            expected: `let ${name}`,
            cause: 'A name that is declared with “const” keeps its value.',
          },
        })),
        ...misspeltMembers(text).map(({ name, line, meant }) => ({
          ...{ name, line, what: `“${name}” looks like “${meant}”`, actual: name, expected: meant },
          cause: `It was mistyped: “${meant}” is meant.`,
        })),
        ...wrongValues(text).map(({ line, actual, expected, message }) => ({
          ...{ name: `${line} ${actual}`, line, what: message, actual, expected },
          cause: expected === null ? 'It was mistyped.' : `It was mistyped: “${expected}” is meant.`,
        })),
      ].map(({ name, line, what, actual, expected, cause }) => ({
        subject: `${document} ${name}`,
        title: `${placeText(document, line)}: ${what}`,
        detail: 'Browsers report it in their console only.',
        affects: 'now' as const,
        witness: witness(null, `The line ${line} of ${document}`, actual, expected),
        cause,
        place: { document, line },
        others: [],
        fixes: [],
      }))
    })
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
      findings: [...findings, ...others],
      claim: {
        sentence:
          'Every name that scripts use is declared in a script of the blog, or known to browsers, and no selector, event or option that is written out is known to be wrong',
        tested: scripts.length,
        things: ['script', 'scripts'],
      },
    })
  },
}
