/** Makes rules from the messages of a validator about the markup of pages. */
import { analysedTemplates } from '../blog/data-types.ts'
import { templatePath } from '../shapes/documents.ts'
import type { MarkupFault } from './facts.ts'
import { groupBy } from './group-by.ts'
import { MarkupPlaces } from './markup-place.ts'
import { placeText, witness, type Rule, type RuleFinding } from './rule.ts'
import { CHOSEN_PAGES, samplePages } from './sample-pages.ts'

interface MarkupRule extends Pick<Rule, 'id' | 'meaning' | 'why'> {
  /** Whether it reports a rule of the validator. */
  isOwn: (rule: string) => boolean
  /** What is true if nothing is found, as a sentence about the pages that were validated. */
  claim: string
  cause: string
}

interface Found extends MarkupFault {
  address: string
  isOfForm: boolean
  place: { document: string; line: number | null } | null
}

/** Rules of the validator that report what follows from an element that is not closed, which is a finding of its own. */
const OF_NESTING = new Set(['close-order', 'element-permitted-content', 'element-permitted-parent'])

/** Returns a rule for some kinds of faults. */
export const markupRule = ({ id, meaning, why, isOwn, claim, cause }: MarkupRule): Rule => ({
  id,
  area: 'templates',
  meaning,
  why,
  async run(facts) {
    const { pages, total } = await samplePages(facts)
    const found: Found[] = []
    const unnested = new Set(
      analysedTemplates(facts.definition).faults.flatMap((one) =>
        one.kind === 'markup-unnested' ? [one.template] : [],
      ),
    )
    for (const { address, body, templates, isOfForm } of pages) {
      const texts = templates.map(templatePath).map((one) => [one, facts.documents.get(one) ?? ''] as const)
      const places = new MarkupPlaces(new Map(texts))
      for (const fault of await facts.markupFaults(body))
        if (isOwn(fault.rule) && !(OF_NESTING.has(fault.rule) && templates.some((one) => unnested.has(one))))
          found.push({ ...fault, address, isOfForm, place: placeOf(fault, places) })
    }
    // One finding for each line, and one for each rule whose lines are unknown.
    const sources = groupBy(found, ({ rule, place }) =>
      place ? `${rule} ${placeText(place.document, place.line)}` : rule,
    )
    return {
      findings: [...sources].flatMap(([subject, [first, ...others]]) =>
        first ? [findingOf(subject, first, others, cause)] : [],
      ),
      claim: {
        sentence: claim,
        ofSample: claim,
        tested: pages.length,
        of: total,
        things: ['page', 'pages'],
        chosen: CHOSEN_PAGES,
      },
    }
  },
})

/** Finds the line that has printed a tag: together with the tag before it, or by itself. */
function placeOf({ context, markup }: MarkupFault, places: MarkupPlaces) {
  const own = context.indexOf(markup)
  return places.find(context, 1) ?? places.find(own === -1 ? markup : context.slice(own))
}

function findingOf(subject: string, first: Found, others: readonly Found[], cause: string): RuleFinding {
  const { message, markup, isOfForm, place } = first
  const address = isOfForm ? `The form for ${first.address} with its errors` : first.address
  return {
    subject,
    title: `${address}: ${message.replace(/\.$/, '')}`,
    detail: `The page contains ${markup}`,
    affects: 'now',
    // No browser shows the answer to a form by its address.
    witness: witness(isOfForm ? null : address, message, markup),
    cause: place ? `${placeText(place.document, place.line)} prints it.` : cause,
    place,
    others: [
      ...new Set(others.flatMap((one) => (one.isOfForm || one.address === address ? [] : [one.address]))),
    ],
    fixes: [],
  }
}
