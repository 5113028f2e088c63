/** A template that builds an address which cannot be built with the values of a real page. */
import { witness, type Rule } from '../rule.ts'

/** Addresses of one route that are asked: the first ones show what the template prints. */
const OF_EACH_ROUTE = 40

export const addressBuildFails: Rule = {
  id: 'address-build-fails',
  area: 'routing',
  meaning: 'A page fails because a template builds an address with a value that the route does not allow.',
  why: 'Names of routes and parameters are checked at save; values only show when a page is made, and then readers see an error.',
  async run(facts) {
    const { known } = await facts.addresses()
    const asked = new Map<string, number>()
    const faults = new Map<
      string,
      { address: string; also: string[]; message: string; document: string; line: number | null }
    >()
    let count = 0
    for (const { route, path } of known) {
      const times = asked.get(route) ?? 0
      if (times >= OF_EACH_ROUTE) continue
      asked.set(route, times + 1)
      count++
      const { failure } = await facts.ask(path)
      if (!failure?.isBuild || failure.document === null) continue
      const key = `${failure.document} ${failure.line ?? 0}`
      const fault = faults.get(key)
      if (fault) fault.also.push(path)
      else
        faults.set(key, {
          address: path,
          also: [],
          message: failure.message,
          document: failure.document,
          line: failure.line,
        })
    }
    return {
      findings: [...faults].map(([key, { address, also, message, document, line }]) => ({
        subject: key,
        title: `${document}${line === null ? '' : `, line ${line}`}, builds an address that cannot be`,
        detail: `${address} answers 500: ${message}.`,
        affects: 'now' as const,
        witness: witness(
          address,
          `${address} fails at ${document}${line === null ? '' : `:${line}`}`,
          '500',
          '200',
        ),
        because: `${message}.`,
        place: { document, line },
        also,
        mends: [],
      })),
      proven:
        count > 0
          ? { sentence: 'Every address in a page could be built', count: `${count} pages asked` }
          : null,
    }
  },
}
