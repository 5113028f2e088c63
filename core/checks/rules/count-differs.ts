/** Finds numbers beside links that differ from the number of posts at the other end. */
import { crawl } from '../crawl.ts'
import type { Facts } from '../facts.ts'
import { groupBy } from '../group-by.ts'
import { pagedPosts } from '../further-pages.ts'
import { ownPath, withoutQuery } from '../page/addresses.ts'
import { counted, routeOf, witness, type Rule } from '../rule.ts'
import { queryPath } from '../../shapes/documents.ts'

/** Addresses whose lists are counted, of each route. */
const TRIED = 60
/** Links that are followed at most. */
const FOLLOWED = 600

interface Differing {
  /** The page with the number. */
  from: string
  text: string
  target: string
  shown: number
  listed: number
  route: string
  query: string
}

export const countDiffers: Rule = {
  id: 'count-differs',
  area: 'queries',
  meaning: 'The number beside a link differs from the number of posts on the page that it leads to.',
  why: 'Two queries that should agree have different conditions, so one of them is wrong.',
  async run(facts) {
    const { pages, isComplete } = await crawl(facts)
    const seen = new Set<string>()
    const tried = new Map<string, number>()
    const differing: Differing[] = []
    let [tested, of] = [0, 0]
    for (const page of pages)
      for (const { href, text, count } of page.links) {
        const target = count === null ? undefined : ownPath(href, page.path)
        if (target === undefined || count === null || target.includes('?')) continue
        // The links of a pager stand beside each other.
        if (/^\d*$/.test(text.trim()) || target === withoutQuery(page.path)) continue
        // “March 2026 2026” says the year twice.
        if (isYear(count) && !text.includes(String(count))) continue
        const key = `${target} ${count}`
        if (seen.has(key)) continue
        seen.add(key)
        if (seen.size > FOLLOWED) {
          of++
          continue
        }
        const route = (await facts.request(target)).route ?? ''
        const compiled = routeOf(facts, route)
        const paged = compiled && compiled.pattern.names.length > 0 ? pagedPosts(facts, compiled) : undefined
        if (!paged) continue
        of++
        const times = (tried.get(route) ?? 0) + 1
        tried.set(route, times)
        if (times > TRIED) continue
        const listed = await totalOf(facts, target, paged.query)
        if (listed === undefined) continue
        tested++
        if (listed !== count)
          differing.push({
            ...{ from: page.path, text: text.trim(), target, shown: count, listed, route },
            query: paged.query,
          })
      }
    const sentence = 'Numbers beside links are the numbers of posts that the pages list'
    return {
      findings: [...groupBy(differing, (one) => one.route)].flatMap(([subject, [first, ...others]]) => {
        if (!first) return []
        const { from, text, target, shown, listed, query } = first
        return [
          {
            subject,
            title: `${from} shows ${shown} beside “${text}”, and ${target} lists ${counted(listed, 'post')}`,
            detail:
              others.length === 0
                ? 'The other numbers that were compared are right.'
                : `${counted(others.length, 'more number')} differ.`,
            affects: 'now' as const,
            witness: witness(target, `${from} shows ${shown} beside the link`, String(listed), String(shown)),
            cause: `The conditions of ${queryPath(query)} and of the query that counts differ.`,
            place: { document: queryPath(query), line: null },
            others: others.map((one) => one.target),
            fixes: [],
          },
        ]
      }),
      claim: isComplete
        ? {
            ...{ sentence, ofSample: sentence, tested, of },
            things: ['number', 'numbers'],
            chosen: `the first ${TRIED} of each route, and at most ${FOLLOWED} links`,
          }
        : null,
    }
  },
}

/** A number beside a link may also be a year. */
const isYear = (count: number) => count >= 1900 && count <= 2100

/** Returns the number of rows on all pages of a list; undefined if it is not counted exactly. */
async function totalOf(facts: Facts, path: string, query: string): Promise<number | undefined> {
  const run = (await facts.queriesAt(path)).find((one) => one.query === query)
  return run === undefined || run.isEstimated || run.total === null ? undefined : run.total
}
