/** Finds scripts that look for a class or an id that nothing on the blog has. */
import { closestName } from '../../shapes/suggest-name.ts'
import { assetPath } from '../../shapes/documents.ts'
import { crawl } from '../crawl.ts'
import { placeText, witness, type Rule, type RuleFinding } from '../rule.ts'
import { readScript } from '../script-selectors.ts'
import { dataReads } from '../script-values.ts'
import { namesGiven } from '../style-classes.ts'

const DATA_ATTRIBUTE = /(?<![\w-])data-[\w$-]+/g

export const scriptFindsNothing: Rule = {
  id: 'script-finds-nothing',
  area: 'templates',
  meaning: 'A script looks for a class, an id or a data attribute that nothing on the blog has.',
  why: 'The script does nothing there, and no error is shown.',
  async run(facts) {
    const { assets } = facts.definition
    const scripts = [...assets].flatMap(([name, text]) => {
      const read = name.endsWith('.js') ? readScript(text) : undefined
      return read ? [{ document: assetPath(name), ...read }] : []
    })
    if (scripts.length === 0) return { findings: [], claim: null }
    const { pages, isComplete } = await crawl(facts)
    const shown = new Set(
      pages.flatMap(({ classes, ids }) => [
        ...[...classes].map((one) => `.${one}`),
        ...[...ids].map((one) => `#${one}`),
      ]),
    )
    const typed = [...facts.documents]
      .filter(([path]) => path.startsWith('templates/'))
      .map(([, text]) => namesGiven(text))
    const findings: RuleFinding[] = []
    let tested = 0
    for (const { document, selectors } of scripts)
      for (const { name, line } of selectors) {
        tested++
        const word = name.slice(1)
        const isKnown =
          shown.has(name) || typed.some((one) => one.has(word)) || scripts.some((one) => one.words.has(word))
        const subject = `${document} ${name}`
        if (isKnown) continue
        const alike = closestName(
          word,
          [...shown].filter((one) => one.startsWith(name.charAt(0))).map((one) => one.slice(1)),
        )
        findings.push({
          subject,
          title: `${document} looks for “${name}”, which no element has`,
          detail: alike === undefined ? '' : `Did you mean “${name.charAt(0)}${alike}”?`,
          affects: 'now',
          witness: witness(
            null,
            `${placeText(document, line)} looks for “${name}” on ${pages.length} visited pages`,
            'no element',
            'an element',
          ),
          cause: 'No page, template or script has the name. It was mistyped, or the markup has changed.',
          place: { document, line },
          others: [],
          fixes: [],
        })
      }
    const given = new Set([...facts.documents].flatMap(([, text]) => text.match(DATA_ATTRIBUTE) ?? []))
    for (const [name, text] of assets)
      for (const { attribute, line } of name.endsWith('.js') ? dataReads(text) : []) {
        tested++
        const document = assetPath(name)
        if (given.has(attribute)) continue
        const alike = closestName(attribute, [...given])
        findings.push({
          subject: `${document} ${attribute}`,
          title: `${document} reads “${attribute}”, which no element has`,
          detail: alike === undefined ? '' : `Did you mean “${alike}”?`,
          affects: 'now',
          witness: witness(
            null,
            `${placeText(document, line)} reads “${attribute}”, and no other document mentions it`,
            'no attribute',
            attribute,
          ),
          cause: 'The attribute was mistyped, or the markup has changed.',
          place: { document, line },
          others: [],
          fixes: [],
        })
      }
    return {
      findings: isComplete ? findings : [],
      claim: isComplete
        ? {
            sentence:
              'Every class, id and data attribute that scripts look for is on a page or in a template',
            tested,
            things: ['name', 'names'],
          }
        : null,
    }
  },
}
