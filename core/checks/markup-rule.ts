/** Makes rules from the messages of a validator about the markup of pages. */
import { templatePath } from '../shapes/documents.ts'
import type { Facts, KnownAddress, MarkupFault } from './facts.ts'
import { groupBy } from './group-by.ts'
import { MarkupPlaces } from './markup-place.ts'
import { placeText, witness, type Rule, type RuleFinding } from './rule.ts'
import { sampleOf, type SampleSize } from './sample.ts'

/** The addresses of each route whose pages are validated. A page takes about 0.1 s. */
const VALIDATED: SampleSize = { oldest: 1, newest: 1, between: 1 }
/** The maximum length of a page that is validated, in characters. */
const LONGEST = 500_000
/** An address that no route answers. */
const NOWHERE = '/no-such-address-as-this'

interface MarkupRule extends Pick<Rule, 'id' | 'meaning' | 'why'> {
  /** Whether it reports a rule of the validator. */
  isOwn: (rule: string) => boolean
  /** What is true if nothing is found, as a sentence about the pages that were validated. */
  claim: string
  cause: string
}

interface Found extends MarkupFault {
  address: string
  place: { document: string; line: number | null } | null
}

/** Returns a rule for some kinds of faults. */
export const markupRule = ({ id, meaning, why, isOwn, claim, cause }: MarkupRule): Rule => ({
  id,
  area: 'templates',
  meaning,
  why,
  async run(facts) {
    const { known, total } = await facts.addresses()
    const pages = await pagesOf(facts, known)
    const found: Found[] = []
    for (const { address, body, templates } of pages) {
      const texts = templates.map(templatePath).map((one) => [one, facts.documents.get(one) ?? ''] as const)
      const places = new MarkupPlaces(new Map(texts))
      for (const fault of await facts.markupFaults(body))
        if (isOwn(fault.rule)) found.push({ ...fault, address, place: placeOf(fault, places) })
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
        of: total + (facts.definition.settings['not-found'] ? 1 : 0),
        things: ['page', 'pages'],
        chosen: `of each route the newest, the oldest, and one between, and the page for an unknown address; pages of up to ${LONGEST / 1_000} kB`,
      },
    }
  },
})

interface Page {
  address: string
  body: string
  /** The template of the page, and those that it renders. */
  templates: readonly string[]
}

/** Requests pages of each route and the 404 page. */
async function pagesOf(facts: Facts, known: readonly KnownAddress[]): Promise<Page[]> {
  const { definition } = facts
  const pages: Page[] = []
  const add = (address: string, template: string | undefined, body: string) => {
    if (template !== undefined && body.length <= LONGEST)
      pages.push({ address, body, templates: definition.templates.closure(template) })
  }
  for (const [name, own] of groupBy(known, (one) => one.route)) {
    const route = definition.routes.find((one) => one.route.name === name)?.route
    for (const { path } of sampleOf(own, VALIDATED)) {
      const { status, body, route: answering } = await facts.request(path)
      if (status === 200 && answering === name) add(path, route?.template, body)
    }
  }
  const rule = definition.settings['not-found']
  if (rule) add(NOWHERE, rule.template, (await facts.page(NOWHERE)).body)
  return pages
}

/** Finds the line that has printed a tag: together with the tag before it, or by itself. */
function placeOf({ context, markup }: MarkupFault, places: MarkupPlaces) {
  const own = context.indexOf(markup)
  return places.find(context, 1) ?? places.find(own === -1 ? markup : context.slice(own))
}

function findingOf(subject: string, first: Found, others: readonly Found[], cause: string): RuleFinding {
  const { message, markup, address, place } = first
  return {
    subject,
    title: `${address}: ${message.replace(/\.$/, '')}`,
    detail: `The page contains ${markup}`,
    affects: 'now',
    witness: witness(address, message, markup),
    cause: place ? `${placeText(place.document, place.line)} prints it.` : cause,
    place,
    others: [...new Set(others.map((one) => one.address).filter((one) => one !== address))],
    fixes: [],
  }
}
