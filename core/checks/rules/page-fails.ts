/**
 * Finds pages that answer with a server error, by requesting them: posts, later pages, searches, the page for addresses that
 * are not found, and forms with their errors.
 */
import { queriesOf } from '../../shapes/route-data.ts'
import type { Answer, Facts, KnownAddress } from '../facts.ts'
import { counted, placeText, witness, type Rule, type RuleFinding } from '../rule.ts'
import { furtherStates, NOWHERE } from '../sample-pages.ts'
import { CHOSEN_ADDRESSES, sampleAddresses } from '../sample.ts'

/** Further pages of a listing that are requested. */
const PAGES = [2, 3]

/** A request that fails, and the status with which it should be answered. */
interface Failed {
  address: string
  /** `TEMPLATE`: the template of error pages, which has no address. */
  method: 'GET' | 'POST' | 'TEMPLATE'
  expected: 200 | 404 | 422
}

export const pageFails: Rule = {
  id: 'page-fails',
  area: 'templates',
  meaning: 'An address answers with a server error.',
  why: 'Readers see an error instead of the page, and search engines drop it.',
  async run(facts) {
    const { known, total } = await facts.addresses()
    const chosen = sampleAddresses(known)
    const failed = new Map<string, { answer: Answer; requests: Failed[] }>()
    const note = (request: Failed, answer: Answer) => {
      // An address that cannot be built has a finding of its own.
      if (answer.status < 500 || answer.status === 503 || answer.failure?.isBuild) return
      const { document = null, line = null, message = '' } = answer.failure ?? {}
      const cause = document === null ? message : placeText(document, line)
      const same = failed.get(cause)
      if (same) same.requests.push(request)
      else failed.set(cause, { answer, requests: [request] })
    }
    for (const address of await requestedPages(facts, chosen))
      note({ address, method: 'GET', expected: 200 }, await facts.request(address))
    note({ address: NOWHERE, method: 'GET', expected: 404 }, await facts.page(NOWHERE))
    for (const address of await facts.forms())
      note({ address, method: 'POST', expected: 422 }, await facts.refusedForm(address))
    const error = await facts.errorTemplateFailure()
    if (error) {
      const address = facts.definition.settings.error ?? ''
      const failure = { ...error, isBuild: false }
      note({ address, method: 'TEMPLATE', expected: 200 }, { ...NO_ANSWER, failure })
    }
    return {
      findings: [...failed].map(([cause, { answer, requests }]) => describe(cause, answer, requests)),
      claim: {
        sentence: 'No page requested answers with a server error',
        ofSample: 'No page requested answers with a server error',
        tested: chosen.length,
        of: total,
        things: ['address', 'addresses'],
        chosen: `${CHOSEN_ADDRESSES}; pages ${PAGES.join(' and ')} of each listing, a search with and without results, a reply, an unknown address, and each form with what it refuses`,
      },
    }
  },
}

/** Returns the addresses that are requested: those chosen, later pages of lists, searches and a reply. */
const requestedPages = async (facts: Facts, chosen: readonly KnownAddress[]): Promise<string[]> => [
  ...chosen.map((one) => one.path),
  ...laterPages(facts, chosen),
  ...(await furtherStates(facts)),
]

/** Whether one of the requested pages fails at a line, so that this is a finding. */
export async function isPageFailure(facts: Facts, document: string, line: number): Promise<boolean> {
  const { known } = await facts.addresses()
  for (const address of await requestedPages(facts, sampleAddresses(known))) {
    const { failure } = await facts.request(address)
    if (failure?.document === document && failure.line === line) return true
  }
  return false
}

/** Returns further pages of the first address of each route with a listing. */
function laterPages({ definition }: Facts, chosen: readonly KnownAddress[]): string[] {
  return definition.routes.flatMap(({ route }) => {
    const first = chosen.find((one) => one.route === route.name)?.path
    if (first === undefined) return []
    return queriesOf(route).flatMap((name) => {
      const take = definition.queries.get(name)?.take
      return take?.kind === 'pages' ? PAGES.map((page) => `${first}?${take.parameter}=${page}`) : []
    })
  })
}

const NO_ANSWER: Answer = { status: 500, location: null, body: '', policy: null, route: null, failure: null }

const named = ({ address, method }: Failed) =>
  method === 'GET' ? address : method === 'POST' ? `POST ${address}` : `The error page ${address}`

function describe(cause: string, { status, failure }: Answer, requests: readonly Failed[]): RuleFinding {
  const [one] = requests
  const [first = '', ...others] = requests.map(named)
  const reason = failure?.message ?? 'The page could not be rendered.'
  return {
    subject: cause,
    title:
      others.length === 0
        ? `${first} answers ${status}`
        : `${counted(requests.length, 'address answers', 'addresses answer')} ${status}, among them ${first}`,
    detail: reason,
    affects: 'now',
    // A form cannot be walked: a walk changes nothing.
    witness: witness(
      one?.method === 'GET' ? one.address : null,
      one?.method === 'POST' ? `A form with invalid input, sent to ${one.address}: ${reason}` : reason,
      String(status),
      String(one?.expected ?? 200),
    ),
    cause: failure?.document === null || failure === null ? reason : `${cause}: ${reason}`,
    place:
      failure?.document === null || failure === null
        ? null
        : { document: failure.document, line: failure.line },
    others,
    fixes: [],
  }
}
