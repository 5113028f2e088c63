/** Finds lists that end after their first few posts. */
import type { QueryMeaning } from '../../queries/meaning.ts'
import { queryPath } from '../../shapes/documents.ts'
import { queriesOf } from '../../shapes/route-data.ts'
import type { Facts } from '../facts.ts'
import { counted, witness, type Rule, type RuleFinding } from '../rule.ts'

/** Addresses of a route that are tried. */
const TRIED = 12

export const listingCut: Rule = {
  id: 'listing-cut',
  area: 'queries',
  meaning: 'The list of a route ends after its first few posts, and no other list has the others.',
  why: 'Older posts disappear from the list once there are more than its limit.',
  async run(facts) {
    const { known } = await facts.addresses()
    const { queries, routes } = facts.definition
    const published = (await facts.slugged()).all.filter((one) => one.kind === 'post' && one.isPublic).length
    const findings: RuleFinding[] = []
    let [tested, of] = [0, 0]
    for (const { route, pattern, shared } of routes) {
      if (route.template === undefined || pattern.text === '/') continue
      const own = Object.fromEntries(Object.entries(route.data ?? {}).filter(([name]) => !shared.has(name)))
      const meanings = queriesOf({ data: own }).flatMap((name) => {
        const meaning = queries.get(name)
        return meaning?.from === 'posts' && meaning.countBy.length === 0 ? [{ name, meaning }] : []
      })
      // The page of a post may show a few others, and a list may have an aside with the latest.
      const [only] = meanings
      if (!only || meanings.length > 1 || only.meaning.take.kind !== 'first') continue
      const { count } = only.meaning.take
      if (isListedElsewhere(facts, only.meaning)) continue
      const addresses = known.filter((one) => one.route === route.name)
      of += addresses.length
      for (const { path } of addresses.slice(0, TRIED)) {
        const { status, route: answering } = await facts.request(path)
        // The page of another route, or the 404 page, may show a few posts, too.
        if (status !== 200 || answering !== route.name) continue
        tested++
        const run = (await facts.queriesAt(path)).find((one) => one.query === only.name)
        if (run?.rows !== count || count >= published) continue
        findings.push({
          subject: route.name,
          title: `${path} ends after ${counted(count, 'post')}`,
          detail: `The blog has ${counted(published, 'published post')}, and the list has no other pages.`,
          affects: 'now',
          witness: witness(
            path,
            `${path} shows as many posts as it can: ${count}`,
            String(count),
            'all of them, in pages',
          ),
          cause: `${queryPath(only.name)} takes the first ${count}. Use “take: pages”, and render a pager.`,
          place: { document: queryPath(only.name), line: null },
          others: [],
          fixes: [],
        })
        break
      }
    }
    return {
      findings,
      claim: {
        sentence: 'No list of posts ends after its first few',
        ofSample: 'No list of posts that was tried ends after its first few',
        ...{ tested, of },
        things: ['address', 'addresses'],
        chosen: `the first ${TRIED} of each route`,
      },
    }
  },
}

/** Whether the list of another route has all posts under the same conditions. */
function isListedElsewhere({ definition }: Facts, cut: QueryMeaning): boolean {
  const wanted = conditionsOf(cut)
  return definition.routes.some(
    ({ route }) =>
      route.template !== undefined &&
      queriesOf(route).some((name) => {
        const meaning = definition.queries.get(name)
        const isWhole = meaning?.take.kind === 'pages' || meaning?.take.kind === 'all'
        return isWhole && meaning.countBy.length === 0 && conditionsOf(meaning) === wanted
      }),
  )
}

const conditionsOf = ({ from, named, conditions, groups }: QueryMeaning) =>
  JSON.stringify([from, named.toSorted(), conditions, groups])
