/** Finds conditions of queries that never change the result, and those that no row can meet. */
import { parse } from 'yaml'
import { changeQuery } from '../../blog/edit-query.ts'
import { idleConditions, inWords } from '../../queries/idle-conditions.ts'
import { queryPath } from '../../shapes/documents.ts'
import type { Condition } from '../../shapes/schemas.ts'
import type { Facts } from '../facts.ts'
import { sampleOf, type SampleSize } from '../sample.ts'
import {
  addressesUsing,
  addressUsing,
  counted,
  lineOf,
  saveFix,
  witness,
  type Rule,
  type RuleFinding,
} from '../rule.ts'

export const conditionIdle: Rule = {
  id: 'condition-idle',
  area: 'queries',
  meaning: 'A condition of a query never changes its result, or no row can meet all conditions.',
  why: 'A condition is meant to exclude rows. One that excludes none, or all, often has a mistake in it.',
  async run(facts) {
    const { known } = await facts.addresses()
    const findings: RuleFinding[] = []
    let [tested, of] = [0, 0]
    for (const [name, { from }] of facts.definition.queries) {
      const document = queryPath(name)
      const text = facts.documents.get(document) ?? ''
      const { where = [] } = (parse(text) ?? {}) as { where?: Condition[] }
      if (where.length === 0) continue
      of++
      const address = addressUsing(facts, name, known) ?? null
      const found = idleConditions(from, where)
      const empty =
        found?.isImpossible === true
          ? undefined
          : await excludesAll(facts, name, addressesUsing(facts, name, known))
      if (empty) findings.push(emptyFinding(name, text, where, empty))
      if (!found) continue
      tested++
      const common = { affects: 'now' as const, others: [] }
      if (found.isImpossible)
        findings.push({
          ...common,
          subject: name,
          title: `Query “${name}” can never return a row`,
          detail: `No row meets all of: ${where.map(inWords).join('; ')}.`,
          witness: witness(address, 'The conditions exclude each other', '0 rows'),
          cause: `The conditions of ${document} exclude each other.`,
          place: { document, line: lineOf(text, 'where:') },
          fixes: [],
        })
      for (const { path, condition, because } of found.idle)
        findings.push({
          ...common,
          subject: `${name} ${condition}`,
          title: `A condition of query “${name}” never changes its result: ${condition}`,
          detail: `The query returns the same rows without it. ${because}`,
          witness: witness(
            address,
            `With “${condition}” and without it, the query returns the same rows. ${because}`,
          ),
          cause: because,
          place: { document, line: lineOf(text, 'where:') },
          fixes: saveFix(
            document,
            changeQuery(text, ['where', ...path], undefined),
            'Remove the condition',
            'The query returns the same rows.',
          ),
        })
    }
    return {
      findings,
      claim: {
        sentence: 'Every condition of a query can change its result',
        ofSample: 'Every condition of the queries that were analysed can change the result',
        tested,
        of,
        things: ['query with conditions', 'queries with conditions'],
        chosen: 'those with up to seven different conditions, of which up to three parameters are optional',
      },
    }
  },
}

/** Addresses with different values of parameters that are tried. */
const TRIED: SampleSize = { oldest: 3, newest: 3, between: 6 }
/** With fewer, all lists may be empty by chance. */
const LEAST = 8

interface Empty {
  address: string
  /** The number of published posts. */
  all: number
  /** At how many addresses the query was run; null if it has no parameters, so that one is enough. */
  tried: number | null
}

/** Returns where a list of posts is used that has no published post, at any address that was tried. */
async function excludesAll(
  facts: Facts,
  name: string,
  addresses: readonly string[],
): Promise<Empty | undefined> {
  const meaning = facts.definition.queries.get(name)
  if (meaning?.from !== 'posts' || meaning.take.kind === 'one') return undefined
  if (meaning.conditions.length + meaning.groups.length === 0) return undefined
  const isFixed = meaning.parameters.length === 0
  const tried = isFixed ? addresses.slice(0, 1) : sampleOf(addresses, TRIED)
  const [address] = tried
  if (address === undefined) return undefined
  const all = (await facts.slugged()).all.filter((one) => one.kind === 'post' && one.isPublic).length
  if (all === 0) return undefined
  let runs = 0
  for (const one of tried) {
    const run = (await facts.queriesAt(one)).find((other) => other.query === name)
    // Another route may answer at an address.
    if (!run) continue
    if (run.rows > 0) return undefined
    runs++
  }
  return runs >= (isFixed ? 1 : LEAST) ? { address, all, tried: isFixed ? null : runs } : undefined
}

const emptyFinding = (
  name: string,
  text: string,
  where: readonly Condition[],
  { address, all, tried }: Empty,
): RuleFinding => ({
  subject: `${name} empty`,
  title:
    tried === null
      ? `Query “${name}” returns none of ${counted(all, 'published post')}`
      : `Query “${name}” returned nothing at ${counted(tried, 'tried address', 'tried addresses')}`,
  detail: `No post meets all of: ${where.map(inWords).join('; ')}.`,
  affects: 'now',
  witness: witness(address, `“${name}” has no rows`, '0 rows', 'some rows'),
  cause: `A condition of ${queryPath(name)} has the wrong field, comparison or value.`,
  place: { document: queryPath(name), line: lineOf(text, 'where:') },
  others: [],
  fixes: [],
})
