/**
 * Finds pages that answer with a server error, by requesting them: posts, later pages, the page for addresses that are not
 * found, and forms with their errors.
 */
import { queriesOf } from '../../shapes/route-data.ts'
import type { Answer, Facts } from '../facts.ts'
import { counted, placeText, witness, type Rule, type RuleFinding } from '../rule.ts'

/** Addresses of each route that are requested: the oldest rows, the newest, and some between them. */
const OLDEST = 3
const NEWEST = 20
const BETWEEN = 17
/** Further pages of a listing that are requested. */
const PAGES = [2, 3]
/** An address that no route answers. */
const NOWHERE = '/no-such-address-as-this'

/** A request that fails, and the status with which it should be answered. */
interface Failed {
  address: string
  method: 'GET' | 'POST'
  expected: 200 | 404 | 422
}

export const pageFails: Rule = {
  id: 'page-fails',
  area: 'templates',
  meaning: 'An address answers with a server error.',
  why: 'Readers see an error instead of the page, and search engines drop it.',
  async run(facts) {
    const { known, total } = await facts.addresses()
    const chosen = chooseAddresses(facts, known)
    const failed = new Map<string, { answer: Answer; requests: Failed[] }>()
    let requests = 0
    const note = (request: Failed, answer: Answer) => {
      requests++
      // An address that cannot be built has a finding of its own.
      if (answer.status < 500 || answer.status === 503 || answer.failure?.isBuild) return
      const { document = null, line = null, message = '' } = answer.failure ?? {}
      const cause = document === null ? message : placeText(document, line)
      const same = failed.get(cause)
      if (same) same.requests.push(request)
      else failed.set(cause, { answer, requests: [request] })
    }
    for (const address of chosen)
      note({ address, method: 'GET', expected: 200 }, await facts.request(address))
    note({ address: NOWHERE, method: 'GET', expected: 404 }, await facts.page(NOWHERE))
    for (const address of await facts.forms())
      note({ address, method: 'POST', expected: 422 }, await facts.emptyForm(address))
    return {
      findings: [...failed].map(([cause, { answer, requests }]) => describe(cause, answer, requests)),
      proven: {
        sentence: 'No requested page answers with a server error',
        count: `${requests.toLocaleString('en-GB')} requests: of ${counted(total, 'address', 'addresses')} the newest, the oldest and some between, further pages, an unknown address and empty forms`,
      },
    }
  },
}

function chooseAddresses(facts: Facts, known: readonly { route: string; path: string }[]): string[] {
  const paths: string[] = []
  for (const { route } of facts.definition.routes) {
    const own = known.filter((one) => one.route === route.name).map((one) => one.path)
    const middle = own.slice(OLDEST, -NEWEST)
    const every = Math.max(1, Math.ceil(middle.length / BETWEEN))
    paths.push(
      ...new Set([
        ...own.slice(0, OLDEST),
        ...middle.filter((_, index) => index % every === 0),
        ...own.slice(-NEWEST),
      ]),
    )
    const [first] = own
    if (first === undefined) continue
    for (const name of queriesOf(route)) {
      const take = facts.definition.queries.get(name)?.take
      if (take?.kind === 'pages') paths.push(...PAGES.map((page) => `${first}?${take.parameter}=${page}`))
    }
  }
  return paths
}

const named = ({ address, method }: Failed) => (method === 'GET' ? address : `POST ${address}`)

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
      one?.method === 'POST' ? `An empty form, sent to ${one.address}: ${reason}` : reason,
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
