/** Finds lists that promise all rows, and have those of one category, tag or author only. */
import { parameterOf } from '../../queries/clauses.ts'
import { queryPath } from '../../shapes/documents.ts'
import { addressUsing, lineOf, witness, type Rule, type RuleFinding } from '../rule.ts'

const ALL = /^(all|every)\b|\b(all|every)$/i
const OF_TERM = /^(category|tags|author)\./

export const listNarrowed: Rule = {
  id: 'list-narrowed',
  area: 'queries',
  meaning: 'A list whose name promises all posts has only those of one category, tag or author.',
  why: 'The others are missing where readers look for them.',
  async run(facts) {
    const { known } = await facts.addresses()
    const findings: RuleFinding[] = []
    let tested = 0
    for (const [name, { from, take, conditions }] of facts.definition.queries) {
      if (from !== 'posts' || take.kind === 'one' || !ALL.test(name.replaceAll('-', ' '))) continue
      tested++
      const narrow = conditions.find(
        ({ field, is, to }) =>
          OF_TERM.test(field) &&
          (is === 'equal' || is === 'within') &&
          to !== undefined &&
          parameterOf(to) === undefined,
      )
      if (!narrow) continue
      const document = queryPath(name)
      const condition = `${narrow.field} ${narrow.is} ${String(narrow.to)}`
      findings.push({
        subject: name,
        title: `Query “${name}” returns only posts with ${condition}`,
        detail: 'Its name promises all of them.',
        affects: 'now',
        witness: witness(
          addressUsing(facts, name, known) ?? null,
          'A condition of the query',
          condition,
          'no such condition',
        ),
        cause: `Remove the condition from ${document}, or rename the query.`,
        place: { document, line: lineOf(facts.documents.get(document), narrow.field) },
        others: [],
        fixes: [],
      })
    }
    return {
      findings,
      claim:
        tested === 0
          ? null
          : {
              sentence: 'Lists that promise all posts are not narrowed to one category, tag or author',
              tested,
              things: ['list', 'lists'],
            },
    }
  },
}
