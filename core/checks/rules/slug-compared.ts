/** Finds queries that compare the slug of an address with a name, or a name with a slug. */
import { parameterOf } from '../../queries/clauses.ts'
import { queryPath } from '../../shapes/documents.ts'
import type { Facts } from '../facts.ts'
import { lineOf, saveFix, witness, type Rule, type RuleFinding } from '../rule.ts'

const SLUG = /(^|\.)(slug|path)$/
/** Comparisons of what comes first. */
const ORDERED = new Set(['less', 'at-most', 'more', 'at-least'])
/** Comparisons with a part. */
const PARTIAL = new Set(['contains', 'matches'])
const NAMES = /(^|\.)(name|title)$/

export const slugCompared: Rule = {
  id: 'slug-compared',
  area: 'queries',
  meaning:
    'A query compares a slug with a name or title, by its place in the alphabet or by a part, or is given a name where it compares a slug.',
  why: 'It finds nothing as soon as a name has a capital letter or a space.',
  async run(facts) {
    const { routes, queries } = facts.definition
    const { known } = await facts.addresses()
    const findings: RuleFinding[] = []
    let tested = 0
    for (const { route } of routes)
      for (const entry of Object.values(route.data ?? {})) {
        const query = typeof entry === 'string' ? entry : entry.query
        const given = typeof entry === 'string' ? {} : (entry.with ?? {})
        for (const { field, is, to } of queries.get(query)?.conditions ?? []) {
          const parameter = parameterOf(to)
          if (parameter === undefined) continue
          tested++
          if ((ORDERED.has(is) || PARTIAL.has(is)) && SLUG.test(field))
            findings.push(orderedFinding(facts, query, { field, is, parameter }))
          if (!['equal', 'not-equal', 'within'].includes(is)) continue
          const from = given[parameter] ?? parameter
          const isSlug = from === parameter ? route.params?.[parameter] === 'slug' : /\.slug$/.test(from)
          const isName = from !== parameter && NAMES.test(from)
          if (!(isSlug && NAMES.test(field)) && !(isName && /(^|\.)slug$/.test(field))) continue
          const document = isName ? 'routes.yaml' : queryPath(query)
          const text = facts.documents.get(document) ?? ''
          const wrong = isName ? from : `field: ${field}`
          const right = wrong.replace(/(name|title)$/, 'slug')
          const address = known.find((one) => one.route === route.name)?.path ?? null
          findings.push({
            subject: `${query} ${parameter}`,
            title: isName
              ? `Query “${query}” compares “${field}” with ${from}, which is no slug`
              : `Query “${query}” compares the slug in the address with “${field}”`,
            detail: isName
              ? `Route “${route.name}” gives it ${from}.`
              : `“${parameter}” of route “${route.name}” is a slug.`,
            affects: 'now',
            witness: witness(
              address,
              isName ? `with: ${parameter}: ${from}` : `${field} ${is} :${parameter}`,
              wrong,
              right,
            ),
            cause: 'A slug is made from a name: it has small letters, and “-” for spaces.',
            place: { document, line: lineOf(text, wrong) },
            others: [],
            fixes: saveFix(
              document,
              text.split(wrong).length === 2 ? text.replace(wrong, right) : undefined,
              `Replace “${wrong}” with “${right}”`,
              'The query compares slugs.',
            ),
          })
        }
      }
    const bySubject = new Map(findings.toReversed().map((one) => [one.subject, one]))
    return {
      findings: [...bySubject.values()],
      claim: {
        sentence: 'No query compares a slug with a name, by its place in the alphabet, or by a part',
        tested,
        things: ['comparison', 'comparisons'],
      },
    }
  },
}

function orderedFinding(
  facts: Facts,
  query: string,
  { field, is, parameter }: { field: string; is: string; parameter: string },
): RuleFinding {
  const document = queryPath(query)
  const text = facts.documents.get(document) ?? ''
  const wrong = `field: ${field}, is: ${is}`
  return {
    subject: `${query} ${field}`,
    title: `Query “${query}” compares “${field}” by ${PARTIAL.has(is) ? 'a part of it' : 'order'}`,
    detail: PARTIAL.has(is)
      ? `“${is}” also finds the rows with a longer ${field} that has the other one in it.`
      : `“${is}” finds the rows whose ${field} comes before or after another one in the alphabet.`,
    affects: 'now',
    witness: witness(null, `${field} ${is} :${parameter}`, is, 'equal'),
    cause: 'A slug identifies a row as a whole.',
    place: { document, line: lineOf(text, wrong) ?? lineOf(text, field) },
    others: [],
    fixes: saveFix(
      document,
      text.split(wrong).length === 2 ? text.replace(wrong, `field: ${field}, is: equal`) : undefined,
      'Compare for equality',
      'The query finds the rows with that slug.',
    ),
  }
}
