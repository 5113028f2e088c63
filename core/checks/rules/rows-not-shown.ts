/** Finds lists of which a page shows only some rows, or shows them in reverse order. */
import { crawl, type CrawledPage } from '../crawl.ts'
import type { Facts, PageQuery } from '../facts.ts'
import { groupBy } from '../group-by.ts'
import { literally, placeInTemplates } from '../page-place.ts'
import { pathOf } from '../page/addresses.ts'
import { counted, routeOf, witness, type Rule, type RuleFinding } from '../rule.ts'
import { sampleOf, type SampleSize } from '../sample.ts'

const TRIED: SampleSize = { oldest: 2, newest: 4, between: 4 }
/** With fewer rows, an order may be a coincidence. */
const LEAST = 3

interface Fault {
  page: CrawledPage
  query: string
  text: string
  actual: string
  expected: string
  kind: 'missing' | 'reversed' | 'sorted' | 'none' | 'unlinked'
  /** The loop over the list, if no other line is the cause. */
  near?: RegExp
}

export const rowsNotShown: Rule = {
  id: 'rows-not-shown',
  area: 'templates',
  meaning: 'A page shows some rows of a list that it fetches and not others, or shows them in another order.',
  why: 'A limit or an offset of a loop hides posts that no other page of the list has.',
  async run(facts) {
    const { pages } = await crawl(facts)
    const { known } = await facts.addresses()
    const rows = known.filter(
      (one) => one.title !== null && routeOf(facts, one.route)?.route.template !== undefined,
    )
    const byTitle = groupBy(rows, (one) => one.title ?? '')
    const shown = pages.filter(
      (one) => one.status === 200 && routeOf(facts, one.route ?? '')?.route.template !== undefined,
    )
    const faults: Fault[] = []
    const nowhere: Fault[] = []
    let tested = 0
    for (const own of groupBy(shown, (one) => one.route ?? '').values()) {
      const states = new Map<string, { isShown: boolean; none: NoneShown[] }>()
      for (const page of sampleOf(own, TRIED)) {
        const targets = page.links.flatMap(({ href }) => pathOf(href, page.path) ?? [])
        for (const run of await facts.queriesAt(page.path)) {
          if (facts.definition.queries.get(run.query)?.from !== 'posts' || run.rows < LEAST) continue
          const paths = run.shown.map((title) => {
            const [only, ...more] = byTitle.get(title) ?? []
            return more.length === 0 ? only?.path : undefined
          })
          if (paths.some((one) => one === undefined)) continue
          tested++
          const isShown = shownOn((await facts.request(page.path)).body)
          const fault = faultOf(page, run, paths as string[], { targets, isShown })
          if (fault) faults.push(fault)
          const state = states.get(run.query) ?? { isShown: false, none: [] }
          states.set(run.query, state)
          if (!isUnshown(run, paths as string[], { targets, isShown })) state.isShown = true
          else state.none.push(...noneShown(facts, page, run))
        }
      }
      // A page may show a list in some cases only, but some page shows it.
      for (const { isShown, none } of states.values())
        nowhere.push(...none.filter((one) => !isShown || one.isPaged).slice(0, isShown ? undefined : 1))
    }
    return {
      findings: [
        ...groupBy([...faults, ...nowhere], (one) => `${one.page.route ?? ''} ${one.query} ${one.kind}`),
      ].flatMap(([subject, [first, ...others]]): RuleFinding[] =>
        first
          ? [
              {
                subject,
                title: `${first.page.path} ${first.text}`,
                detail: `The list is “${first.query}”.`,
                affects: 'now',
                witness: witness(
                  first.page.path,
                  `${first.page.path} ${first.text}`,
                  first.actual,
                  first.expected,
                ),
                cause:
                  first.kind === 'unlinked'
                    ? 'The loop prints the titles without links, so readers cannot open the posts.'
                    : first.kind === 'sorted'
                      ? 'The template sorts the rows of a page, which are sorted among themselves only. Sort in the query.'
                      : first.kind === 'none'
                        ? 'The loop of the template is inside a condition that is not met, or prints nothing of the rows.'
                        : 'The loop of the template has a “limit”, an “offset”, “reversed” or a condition.',
                place: placeInTemplates(
                  facts,
                  first.page.route,
                  first.near ?? /\{%-?\s*for\s[^%]*\b(limit|offset|reversed)\b/,
                ),
                others: others.map((one) => one.page.path),
                fixes: [],
              },
            ]
          : [],
      ),
      claim: {
        sentence: 'Pages show all rows of the lists that they fetch, as far as they were tried',
        tested,
        things: ['list', 'lists'],
      },
    }
  },
}

interface NoneShown extends Fault {
  /** Whether other pages of the list have other rows. */
  isPaged: boolean
}

/** Returns the fault of a page that shows no row of a list over which a template loops. */
function noneShown(facts: Facts, page: CrawledPage, { query, data, rows, total }: PageQuery): NoneShown[] {
  const loop = loopOver(data)
  if (!placeInTemplates(facts, page.route, loop)) return []
  return [
    {
      ...{ page, query, kind: 'none', near: loop, actual: '0', expected: String(rows) },
      text: `fetches ${counted(rows, 'post')}, and shows none of them`,
      isPaged: total !== null && total > rows,
    },
  ]
}

/** Matches a loop over the rows of a list. */
const loopOver = (data: string): RegExp =>
  new RegExp(`\\bfor\\s+\\w+\\s+in\\s+${literally(data).source}(\\.items)?\\b`)

interface ShownPage {
  /** The addresses to which the page links. */
  targets: readonly string[]
  isShown: (title: string) => boolean
}

/** Whether a page neither links to a row nor shows its title. */
const isUnshown = ({ shown }: PageQuery, paths: readonly string[], { targets, isShown }: ShownPage) =>
  !paths.some((one) => targets.includes(one)) && !shown.some(isShown)

function faultOf(
  page: CrawledPage,
  { query, rows, shown, total }: PageQuery,
  paths: readonly string[],
  { targets, isShown }: ShownPage,
): Fault | undefined {
  const linked = paths.filter((one) => targets.includes(one))
  if (linked.length === 0) {
    // A list without any links is shown in another way, unless it is what the page is for.
    const isPaged = total !== null && total >= rows
    if (!isPaged || !shown.every(isShown)) return undefined
    return {
      ...{ page, query, kind: 'unlinked' },
      text: `shows ${counted(rows, 'post')} without a link to any of them`,
      actual: 'no links',
      expected: `a link to ${paths[0] ?? ''}`,
      near: /\.title\b/,
    }
  }
  const missing = shown.filter((title, index) => !linked.includes(paths[index] ?? '') && !isShown(title))
  if (missing.length > 0)
    return {
      ...{ page, query, kind: 'missing' },
      text: `fetches ${counted(rows, 'post')}, and shows ${rows - missing.length} of them`,
      actual: String(rows - missing.length),
      expected: String(rows),
    }
  if (linked.length < paths.length) return undefined
  const first = (path: string) => targets.indexOf(path)
  const isReversed = paths.every((path, index) => index === 0 || first(path) < first(paths[index - 1] ?? ''))
  if (isReversed)
    return {
      ...{ page, query, kind: 'reversed' },
      text: 'shows a list in reverse order',
      actual: [...paths].reverse().slice(0, 2).join(', '),
      expected: paths.slice(0, 2).join(', '),
    }
  // A list that has several pages is in one order on all of them.
  const isPaged = total !== null && total > rows
  if (!isPaged || isWithin(paths, targets)) return undefined
  const own = [...paths].sort((a, b) => first(a) - first(b))
  return {
    ...{ page, query, kind: 'sorted' },
    text: 'shows the rows of one page of a list in another order than the list has',
    actual: own.slice(0, 2).join(', '),
    expected: paths.slice(0, 2).join(', '),
    near: /\|\s*sort(_natural)?\b/,
  }
}

/** Whether some values follow each other among others in the same order. */
function isWithin(values: readonly string[], all: readonly string[]): boolean {
  let at = -1
  return values.every((one) => (at = all.indexOf(one, at + 1)) !== -1)
}

const SIGNS = /&(?:amp|lt|gt|quot|apos|#\d+|#x[\da-f]+);|[&<>"']/gi

/** Returns whether a title is in the text of a page. Signs that HTML escapes are left out of the comparison. */
function shownOn(body: string): (title: string) => boolean {
  // What is inside a comment is not shown.
  const text = body.replace(/<!--[\s\S]*?(?:-->|$)/g, '').replace(SIGNS, '')
  return (title) => text.includes(title.replace(SIGNS, ''))
}
