/** Finds links and headings that name another month than the page lists. */
import { parameterOf } from '../../queries/clauses.ts'
import { matchRoute } from '../../routing/addresses/match.ts'
import { queriesOf } from '../../shapes/route-data.ts'
import { crawl } from '../crawl.ts'
import type { Facts } from '../facts.ts'
import { placeInTemplates } from '../page-place.ts'
import { pathOf } from '../page/addresses.ts'
import { monthNames, monthsIn, type MonthNames } from '../shown-date.ts'
import { routeOf, witness, type Rule, type RuleFinding } from '../rule.ts'

/** Longer texts may speak of other months. */
const LONGEST = 60

export const monthMisnamed: Rule = {
  id: 'month-misnamed',
  area: 'templates',
  meaning: 'A link to the posts of a month, or the heading of their page, names another month.',
  why: 'Readers get the posts of another month. It happens if a list of names starts at 0 and months at 1.',
  async run(facts) {
    const { pages, isComplete } = await crawl(facts)
    const names = monthNames(facts.definition.settings.language ?? 'en')
    const findings: RuleFinding[] = []
    let tested = 0
    const note = (
      from: { path: string; route: string | null },
      target: string,
      what: string,
      text: string,
    ) => {
      const said = text.trim().length > LONGEST ? [] : monthsIn(text, names)
      const month = said.length === 1 ? monthOf(facts, target) : undefined
      if (month === undefined) return
      tested++
      if (said[0] === month) return
      const place = placeInTemplates(facts, from.route, /month/i)
      const subject = `${what} ${place?.document ?? from.route ?? from.path}`
      const shown = text.trim()
      findings.push({
        subject,
        title:
          what === 'link'
            ? `On ${from.path}, the link “${shown}” leads to ${target}, the posts of ${nameOf(names, month)}`
            : `${target}, the posts of ${nameOf(names, month)}, has the heading “${shown}”`,
        detail: 'The name and the number of the month do not belong together.',
        affects: 'now',
        witness: witness(from.path, `The ${what} is “${shown}”`, shown, nameOf(names, month)),
        cause:
          'The names of months are in the wrong order, or the number is counted from 0 in one place and from 1 in another.',
        place,
        others: [],
        fixes: [],
      })
    }
    for (const page of pages) {
      if (page.status !== 200) continue
      note(page, page.path, 'heading', page.head.heading)
      for (const { href, text } of page.links) note(page, pathOf(href, page.path) ?? '', 'link', text)
    }
    return {
      findings,
      claim: isComplete
        ? {
            sentence: 'Every name of a month belongs to the posts that its page lists',
            tested,
            things: ['name', 'names'],
          }
        : null,
    }
  },
}

const nameOf = (names: MonthNames, month: number): string => {
  const [name = ''] = names[month - 1] ?? []
  return name.charAt(0).toUpperCase() + name.slice(1)
}

/** Returns the month whose posts an address lists; undefined for other addresses. */
function monthOf(facts: Facts, path: string): number | undefined {
  const { definition } = facts
  const match = path === '' ? undefined : matchRoute(definition.table, 'GET', path.replace(/\?.*$/s, ''))
  if (match?.outcome !== 'matched') return undefined
  const { route } = match.route
  for (const name of queriesOf(routeOf(facts, route.name)?.route ?? route))
    for (const { field, is, to } of definition.queries.get(name)?.conditions ?? []) {
      const parameter = parameterOf(to)
      if (field !== 'publishedMonth' || is !== 'equal' || parameter === undefined) continue
      const month = Number(match.parameters.find((one) => one.name === parameter)?.value)
      if (month >= 1 && month <= 12) return month
    }
  return undefined
}
