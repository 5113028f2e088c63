/** Makes rules of what a validator says of the markup of pages. */
import { templatePath } from '../shapes/documents.ts'
import type { Facts, KnownAddress, MarkupFault } from './facts.ts'
import { groupBy } from './group-by.ts'
import { placeOfMarkup } from './markup-place.ts'
import { placeText, witness, type Rule, type RuleFinding } from './rule.ts'
import { sampleOf, type SampleSize } from './sample.ts'

/** Addresses of each route whose pages are validated, which takes about 0.1 s for each. */
const VALIDATED: SampleSize = { oldest: 1, newest: 1, between: 1 }
/** An address that no route answers. */
const NOWHERE = '/no-such-address-as-this'

interface MarkupRule extends Pick<Rule, 'id' | 'meaning' | 'why'> {
  /** Which of the validator's rules it is about. */
  isOwn: (rule: string) => boolean
  /** What is true if nothing is found, as a sentence about pages. */
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
    for (const { address, body, templates } of pages)
      for (const fault of await facts.markupFaults(body))
        if (isOwn(fault.rule)) found.push({ ...fault, address, place: placeOf(facts, fault, templates) })
    const sources = groupBy(found, (one) =>
      one.place
        ? `${one.rule} ${placeText(one.place.document, one.place.line)}`
        : `${one.rule} ${one.message}`,
    )
    return {
      findings: [...sources].flatMap(([subject, [first, ...others]]) =>
        first ? [findingOf(subject, first, others, cause)] : [],
      ),
      claim: {
        sentence: claim,
        ofSample: claim,
        tested: pages.length,
        of: Math.max(total, pages.length),
        things: ['page', 'pages'],
        chosen: 'of each route the newest, the oldest, and one between, and the page for an unknown address',
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

/** Requests pages of each route, their second pages, and the 404 page. Each address is requested only once. */
async function pagesOf(facts: Facts, known: readonly KnownAddress[]): Promise<Page[]> {
  const { definition } = facts
  const pages: Page[] = []
  const add = (address: string, template: string | undefined, body: string) => {
    if (template !== undefined && body.includes('<'))
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

/** Finds the line of a template that has printed a tag: by the tag before it, or by itself. */
function placeOf({ documents }: Facts, { context, markup }: MarkupFault, templates: readonly string[]) {
  const texts = new Map(templates.map(templatePath).map((one) => [one, documents.get(one) ?? '']))
  const own = context.indexOf(markup)
  return placeOfMarkup(texts, context, 1) ?? placeOfMarkup(texts, own === -1 ? markup : context.slice(own))
}

function findingOf(subject: string, first: Found, others: readonly Found[], cause: string): RuleFinding {
  const { message, markup, address, place } = first
  return {
    subject,
    title: `${address}: ${message}`,
    detail: `The page has ${markup}`,
    affects: 'now',
    witness: witness(address, message, markup),
    cause: place ? `${placeText(place.document, place.line)} prints it.` : cause,
    place,
    others: [...new Set(others.map((one) => one.address).filter((one) => one !== address))],
    fixes: [],
  }
}
