/** Finds templates that fail to build an address with the values of an existing page. */
import { placeText, witness, type Rule } from '../rule.ts'
import { CHOSEN_ADDRESSES, sampleAddresses } from '../sample.ts'

interface Fault {
  address: string
  others: string[]
  message: string
  document: string
  line: number | null
}

export const addressBuildFails: Rule = {
  id: 'address-build-fails',
  area: 'routing',
  meaning: 'A page fails because a template builds an address with a value that the route does not allow.',
  why: 'Names of routes and parameters are checked at every save, but values are only known when a page is rendered. Readers get an error then.',
  async run(facts) {
    const { known, total } = await facts.addresses()
    const chosen = sampleAddresses(known)
    const faults = new Map<string, Fault>()
    for (const { path } of chosen) {
      const { failure } = await facts.request(path)
      if (!failure?.isBuild || failure.document === null) continue
      const { message, document, line } = failure
      const key = `${document} ${line ?? 0}`
      const fault = faults.get(key)
      if (fault) fault.others.push(path)
      else faults.set(key, { address: path, others: [], message, document, line })
    }
    return {
      findings: [...faults].map(([key, { address, others, message, document, line }]) => ({
        subject: key,
        title: `${placeText(document, line)} cannot build an address`,
        detail: `${address} answers 500. ${message}`,
        affects: 'now' as const,
        witness: witness(address, `The page fails at ${placeText(document, line)}`, '500', '200'),
        cause: message,
        place: { document, line },
        others,
        fixes: [],
      })),
      claim: {
        sentence: 'Templates build every address of every page',
        ofSample: 'Templates build every address of the pages requested',
        tested: chosen.length,
        of: total,
        things: ['page', 'pages'],
        chosen: CHOSEN_ADDRESSES,
      },
    }
  },
}
