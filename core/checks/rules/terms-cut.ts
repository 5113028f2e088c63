/** Finds lists of categories, tags, authors or months of which a page shows only the first few. */
import type { QueryMeaning } from '../../queries/meaning.ts'
import { SOURCE } from '../../queries/sources.ts'
import { queryPath } from '../../shapes/documents.ts'
import type { Facts } from '../facts.ts'
import { literally, placeInTemplates } from '../page-place.ts'
import { counted, lineOfText, placeText, witness, type Rule, type RuleFinding } from '../rule.ts'

/** Fields that say nothing of how many posts a row has. */
const FIXED = new Set(['name', 'slug', 'position', 'id'])
const TERMS = new Set(['categories', 'tags', 'authors'])

export const termsCut: Rule = {
  id: 'terms-cut',
  area: 'queries',
  meaning: 'A list of categories, tags, authors or months ends after its first few.',
  why: 'Readers do not see that there are more, and cannot reach the others from there.',
  async run(facts) {
    const { known } = await facts.addresses()
    const findings: RuleFinding[] = []
    let tested = 0
    for (const { route } of facts.definition.routes) {
      if (route.template === undefined) continue
      const path = known.find((one) => one.route === route.name)?.path
      if (path === undefined) continue
      for (const [data, entry] of Object.entries({ ...facts.definition.settings.data, ...route.data })) {
        const query = typeof entry === 'string' ? entry : entry.query
        const meaning = facts.definition.queries.get(query)
        const isCounted = meaning?.from === 'posts' && meaning.countBy.length > 0
        if (!meaning || !(isCounted || isWhole(meaning))) continue
        tested++
        const taken = await facts.rowsTaken(query, path)
        // A month is no row of a source.
        const all = isCounted ? taken.rows : taken.all
        const words = isCounted ? (['row', 'rows'] as const) : SOURCE[meaning.from].words
        const { take } = meaning
        if (!isCounted && take.kind === 'first' && take.count < all)
          findings.push({
            subject: query,
            title: `“${query}” returns ${take.count} of ${counted(all, ...words)}`,
            detail: 'They are the first in the order of the list, not those with the most posts.',
            affects: 'now',
            witness: witness(path, `${path} shows the first ${take.count}`, String(take.count), String(all)),
            cause: `${queryPath(query)} takes the first ${take.count}. Use “take: all”, or order by a count.`,
            place: { document: queryPath(query), line: null },
            others: [],
            fixes: [],
          })
        const loop = cutLoop(facts, route.name, data)
        if (loop && loop.limit < all && take.kind === 'all')
          findings.push({
            subject: loop.place,
            title: `${path} shows ${loop.limit} of ${counted(all, ...words)}`,
            detail: `The loop in ${loop.place} ends after ${loop.limit}, in the order of the list.`,
            affects: 'now',
            witness: witness(path, `“${query}” returns all of them`, String(loop.limit), String(all)),
            cause: 'The loop has a “limit”.',
            place: { document: loop.document, line: loop.line },
            others: [],
            fixes: [],
          })
      }
    }
    return {
      findings,
      claim: {
        sentence:
          'No query or loop with a limit is known to cut a list of categories, tags, authors or months',
        tested,
        things: ['list', 'lists'],
      },
    }
  },
}

/** Whether a list has all rows of its source in an order that does not tell which are the largest or the newest. */
const isWhole = ({ from, conditions, groups, named, countBy, order, parameters }: QueryMeaning): boolean =>
  TERMS.has(from) &&
  [conditions, groups, named, countBy, parameters].every((one) => one.length === 0) &&
  FIXED.has(order[0]?.field ?? '')

/** Returns the first loop over the list of a page that ends early. */
function cutLoop(facts: Facts, route: string, data: string) {
  const loop = new RegExp(
    `\\{%-?\\s*for\\s+\\w+\\s+in\\s+${literally(data).source}\\b[^%.|]*\\blimit:\\s*\\d`,
  )
  const place = placeInTemplates(facts, route, loop)
  if (!place || place.line === null) return undefined
  const line = lineOfText(facts.documents.get(place.document) ?? '', place.line)
  const [, limit = ''] = /\blimit:\s*(\d+)/.exec(line) ?? []
  return {
    document: place.document,
    line: place.line,
    place: placeText(place.document, place.line),
    limit: Number(limit),
  }
}
