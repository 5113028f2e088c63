/** Finds pages whose list of related posts includes the post itself. */
import { queryPath } from '../../shapes/documents.ts'
import { isOfPost, placeOfRoute, witness, type Rule, type RuleFinding } from '../rule.ts'
import { sampleOf, type SampleSize } from '../sample.ts'

const TRIED: SampleSize = { oldest: 3, newest: 3, between: 6 }

export const relatedIncludesItself: Rule = {
  id: 'related-includes-itself',
  area: 'queries',
  meaning: 'The posts related to a post include the post itself.',
  why: 'The page offers what the reader has just read.',
  async run(facts) {
    const { known } = await facts.addresses()
    const findings: RuleFinding[] = []
    let [tested, of] = [0, 0]
    for (const { route } of facts.definition.routes) {
      const related = Object.entries(route.data ?? {}).flatMap(([data, entry]) =>
        typeof entry === 'object' && Object.values(entry.with ?? {}).some((one) => String(one).includes('.'))
          ? [{ data, query: entry.query }]
          : [],
      )
      if (related.length === 0 || !isOfPost(facts, route.name)) continue
      const own = known.filter((one) => one.route === route.name && one.title !== null)
      of += own.length
      for (const { path, title } of sampleOf(own, TRIED)) {
        tested++
        const runs = await facts.queriesAt(path)
        const page = runs.find(({ query }) => {
          const meaning = facts.definition.queries.get(query)
          return meaning?.from === 'posts' && meaning.take.kind === 'one'
        })
        const itself = page?.documents[0] ?? null
        for (const { data, query } of related) {
          const run = runs.find((one) => one.data === data)
          if (!run || title === null || itself === null || !run.documents.includes(itself)) continue
          findings.push({
            subject: query,
            title: `“${data}” at ${path} includes the post itself`,
            detail: `It has ${run.shown.map((one) => `“${one}”`).join(', ')}.`,
            affects: 'now',
            witness: witness(path, `“${title}” is related to itself`, title, 'other posts'),
            cause: `${queryPath(query)} does not leave the post out. Add { field: slug, is: not-equal, to: ":except" } to “where”, and pass “except” in the route.`,
            place: placeOfRoute(facts, route.name),
            others: [],
            fixes: [],
          })
        }
      }
    }
    return {
      findings,
      claim: {
        sentence: 'No post is related to itself',
        ofSample: 'No post that was tried is related to itself',
        ...{ tested, of },
        things: ['page', 'pages'],
        chosen: 'the newest, the oldest, and some between',
      },
    }
  },
}
