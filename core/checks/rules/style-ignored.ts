/** Finds declarations in stylesheets that browsers ignore. */
import { BELOW_PAGE } from '../../blog/building/aside-template.ts'
import { isClassOfTexts } from '../../content/html/allow-list.ts'
import { assetPath } from '../../shapes/documents.ts'
import { crawl } from '../crawl.ts'
import { literally, placeInTemplates } from '../page-place.ts'
import { lineOfText, saveFix, witness, type Rule, type RuleFinding } from '../rule.ts'
import { readScript } from '../script-selectors.ts'
import { styleFinding } from '../style-finding.ts'
import { misspeltClasses, misspeltUses, namesGiven, signlessSelectors } from '../style-classes.ts'
import { ignoredDeclarations, unknownFeatures } from '../style-faults.ts'

export const styleIgnored: Rule = {
  id: 'style-ignored',
  area: 'templates',
  meaning:
    'A declaration in a stylesheet has a misspelt property, keyword or colour, or a variable that is not set, a selector or media query names a class or a feature that is misspelt, or an element has a misspelt class.',
  why: 'Browsers ignore it without a message.',
  async run(facts) {
    const { assets } = facts.definition
    const { pages } = await crawl(facts)
    const given = [...facts.documents].flatMap(([path, text]) =>
      path.endsWith('.css')
        ? []
        : [path.endsWith('.js') ? (readScript(text)?.words ?? new Set()) : namesGiven(text)],
    )
    const markup = {
      classes: new Set(pages.flatMap((one) => [...one.classes])),
      ids: new Set(pages.flatMap((one) => [...one.ids])),
      elements: new Set(pages.flatMap((one) => [...one.elements])),
      isGiven: (name: string) =>
        // Markdown, and a step that is not done yet.
        isClassOfTexts(name) || name === BELOW_PAGE || given.some((one) => one.has(name)),
    }
    const faults = [
      ...ignoredDeclarations(assets),
      ...unknownFeatures(assets),
      ...misspeltClasses(assets, markup),
      ...signlessSelectors(assets, markup),
    ]
    const findings: RuleFinding[] = faults.map((fault) => {
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
    // A class that a stylesheet misspells has no styles, either.
    const corrected = new Set(faults.map((one) => one.expected))
    for (const { name, meant } of misspeltUses(assets, markup)) {
      if (corrected.has(`.${name}`)) continue
      const page = pages.find((one) => one.classes.has(name))
      const given = new RegExp(`(class="(?:[^"]*\\s)?)${literally(name).source}(?=[\\s"])`, 'g')
      const place = placeInTemplates(facts, page?.route ?? null, new RegExp(given.source))
      const text = facts.documents.get(place?.document ?? '') ?? ''
      findings.push({
        subject: `class ${name}`,
        title: `No stylesheet has the class “${name}”`,
        detail: `Did you mean “${meant}”, which has styles?`,
        affects: 'now',
        witness: witness(page?.path ?? null, `An element has the class “${name}”`, name, meant),
        cause: 'The class is misspelt, so its styles are not applied.',
        place,
        others: [],
        fixes: place
          ? saveFix(
              place.document,
              text.replace(given, (_, before: string) => before + meant),
              `Replace “${name}” with “${meant}”`,
              'The element gets its styles.',
            )
          : [],
      })
    }
    return {
      findings,
      claim: {
        sentence:
          'No stylesheet is known to have a misspelt property, class or media feature, a variable that is not set, or a class without its dot, and no element is known to have a misspelt class',
        tested,
        things: ['stylesheet', 'stylesheets'],
      },
    }
  },
}
