/** Finds lists that have no items on any page. */
import { crawl } from '../crawl.ts'
import { literally, placeInTemplates } from '../page-place.ts'
import { counted, witness, type Rule, type RuleFinding } from '../rule.ts'

export const listEmpty: Rule = {
  id: 'list-empty',
  area: 'templates',
  meaning: 'A list has no items on any page.',
  why: 'What should be in it is not shown anywhere.',
  async run(facts) {
    const { pages } = await crawl(facts)
    const shown = pages.filter((one) => one.status === 200)
    const lists = new Map<string, { path: string; route: string | null; times: number; hasItems: boolean }>()
    for (const { path, route, lists: own } of shown)
      for (const [markup, hasItems] of own) {
        const known = lists.get(markup) ?? { path, route, times: 0, hasItems: false }
        lists.set(markup, { ...known, times: known.times + 1, hasItems: known.hasItems || hasItems })
      }
    const findings: RuleFinding[] = []
    for (const [markup, { path, route, times, hasItems }] of lists) {
      if (hasItems) continue
      findings.push({
        subject: markup,
        title: `The list ${markup} never has items`,
        detail: `It is on ${counted(times, 'visited page')}, always empty.`,
        affects: 'now',
        witness: witness(path, `The items of ${markup}`, 'none', 'at least one, or no list'),
        cause: 'Its loop reads the wrong list or skips all rows, or prints no <li>.',
        place: placeInTemplates(facts, route, literally(markup)),
        others: [],
        fixes: [],
      })
    }
    return {
      findings,
      claim: {
        sentence: 'Every list has items on at least one of the visited pages that have it',
        tested: lists.size,
        things: ['list', 'lists'],
      },
    }
  },
}
