/** Finds lists that are the same for every value of the parameter in their address. */
import { queryPath } from '../../shapes/documents.ts'
import { queriesOf } from '../../shapes/route-data.ts'
import { counted, witness, type Rule, type RuleFinding } from '../rule.ts'
import { sampleOf, type SampleSize } from '../sample.ts'

const TRIED: SampleSize = { oldest: 2, newest: 2, between: 4 }
/** With fewer addresses, equal lists may be a coincidence. */
const LEAST = 3

export const listingSameEverywhere: Rule = {
  id: 'listing-same-everywhere',
  area: 'queries',
  meaning: 'A list is the same at every address of its route, although the address has a parameter.',
  why: 'A condition that always holds shows every category all posts.',
  async run(facts) {
    const { known } = await facts.addresses()
    const findings: RuleFinding[] = []
    let [tested, of] = [0, 0]
    for (const { route, pattern } of facts.definition.routes) {
      if (pattern.names.length === 0 || route.template === undefined) continue
      const own = known.filter((one) => one.route === route.name)
      const tried = sampleOf(own, TRIED)
      if (tried.length < LEAST) continue
      of += own.length
      const lists = new Map<string, string[]>()
      for (const { path } of tried) {
        const { status, route: answering } = await facts.request(path)
        if (status !== 200 || answering !== route.name) continue
        tested++
        for (const { query, shown } of await facts.queriesAt(path))
          lists.set(query, [...(lists.get(query) ?? []), JSON.stringify(shown)])
      }
      for (const name of queriesOf(route)) {
        const meaning = facts.definition.queries.get(name)
        const shown = lists.get(name) ?? []
        const [first = '[]'] = shown
        // What does not read the parameter, such as an aside, is meant to be the same.
        const readsIt = meaning?.parameters.some((one) => pattern.names.includes(one)) === true
        if (!meaning || meaning.take.kind === 'one' || !readsIt) continue
        if (shown.length < LEAST || first === '[]' || shown.some((one) => one !== first)) continue
        const [path] = tried.map((one) => one.path)
        findings.push({
          subject: `${route.name} ${name}`,
          title: `“${name}” returns the same rows at every address of route “${route.name}”`,
          detail: `It was run for ${counted(shown.length, 'address', 'addresses')}.`,
          affects: 'now',
          witness: witness(path ?? null, `${tried.map((one) => one.path).join(', ')} show the same list`),
          cause: `A condition of ${queryPath(name)} holds for every row, or hides what depends on the parameter.`,
          place: { document: queryPath(name), line: null },
          others: tried.slice(1).map((one) => one.path),
          fixes: [],
        })
      }
    }
    const sentence = 'No list was the same at all tried addresses of its route'
    return {
      findings,
      claim: {
        ...{ sentence, ofSample: sentence, tested, of },
        things: ['address', 'addresses'],
        chosen: 'of each route the newest, the oldest, and some between',
      },
    }
  },
}
