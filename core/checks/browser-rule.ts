/** Makes rules from what a browser has shown of pages. */
import { assetPath, templatePath } from '../shapes/documents.ts'
import type { BrowserFacts, BrowserFault } from './facts.ts'
import { groupBy } from './group-by.ts'
import { MarkupPlaces } from './markup-place.ts'
import { lineOf, placeText, witness, type Rule, type RuleFinding } from './rule.ts'
import { CHOSEN_PAGES } from './sample-pages.ts'

interface BrowserRule extends Pick<Rule, 'id' | 'meaning' | 'why'> {
  kind: BrowserFault['kind']
  /** What is true if nothing is found, as a sentence about the pages that were opened. */
  claim: string
}

interface Found extends BrowserFault {
  address: string
  templates: readonly string[]
}

/** Returns a rule for one kind of faults. */
export const browserRule = ({ id, meaning, why, kind, claim }: BrowserRule): Rule<BrowserFacts> => ({
  id,
  area: 'templates',
  meaning,
  why,
  run(facts) {
    const found = facts.opened.flatMap(({ address, templates, faults }): Found[] =>
      faults.flatMap((fault) => (fault.kind === kind ? [{ ...fault, address, templates }] : [])),
    )
    // The same tag on many pages has one cause. Texts differ, so a tag is known by its name and its classes.
    const sources = groupBy(found, ({ rule, markup, message }) =>
      markup === '' ? `${rule} ${message}` : `${rule} ${tagOf(markup)}`,
    )
    return Promise.resolve({
      findings: [...sources].flatMap(([subject, [first, ...others]]) =>
        first ? [findingOf(facts, subject, first, others)] : [],
      ),
      claim: {
        sentence: claim,
        ofSample: claim,
        tested: facts.opened.length,
        of: facts.total,
        things: ['page', 'pages'],
        chosen: CHOSEN_PAGES,
      },
    })
  },
})

/** Returns the name and the classes of a tag, e.g. `p.meta`. */
export function tagOf(markup: string): string {
  const [, name = '', attributes = ''] = /^<([\w-]+)([^>]*)/.exec(markup) ?? []
  const [, classes = ''] = /\bclass="([^"]*)"/.exec(attributes) ?? []
  return [name, ...classes.split(/\s+/).filter(Boolean)].join('.')
}

function findingOf(
  facts: BrowserFacts,
  subject: string,
  first: Found,
  others: readonly Found[],
): RuleFinding {
  const { message, markup, address, scheme, actual, expected } = first
  const place = styleOf(facts, first) ?? placeOf(facts, first)
  return {
    subject,
    title: `${address}: ${message.replace(/\.$/, '')}`,
    detail: markup === '' ? message : `The page contains ${markup}`,
    affects: 'now',
    witness: witness(
      address,
      `${message} This was seen in the ${scheme} colour scheme.`,
      actual ?? (markup === '' ? null : markup),
      expected,
    ),
    cause: place
      ? `${placeText(place.document, place.line)} ${first.style ? `sets it, with “${first.style.declared}”.` : 'prints it.'}`
      : 'A template, a style or a script of the page causes it.',
    place,
    others: [...new Set(others.map((one) => one.address).filter((one) => one !== address))],
    fixes: [],
  }
}

/** Returns the place of the style that causes a fault. */
function styleOf({ definition, documents }: BrowserFacts, { style }: Found) {
  if (!style) return null
  for (const name of definition.assets.keys()) {
    const document = assetPath(name)
    const text = documents.get(document)
    // Browsers begin the selector of a nested rule with “& ”.
    const line = lineOf(text, style.selector.replace(/^& /, ''))
    if (name.endsWith('.css') && line !== null) return { document, line }
  }
  return null
}

/** Returns the place of the template's line that has printed a tag. */
function placeOf({ documents }: BrowserFacts, { templates, markup }: Found) {
  const texts = templates.map(templatePath).map((one) => [one, documents.get(one) ?? ''] as const)
  return (markup === '' ? undefined : new MarkupPlaces(new Map(texts)).find(markup)) ?? null
}
