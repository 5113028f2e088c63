/** Finds links between the pages of a listing that lose a parameter, or lead in the wrong direction. */
import type { Facts } from '../facts.ts'
import { ownPath, readPage } from '../read-page.ts'
import { witness, type Rule, type RuleFinding } from '../rule.ts'
import { queriesOf } from '../../shapes/route-data.ts'
import { templatePath } from '../../shapes/documents.ts'
import type { Take } from '../../queries/meaning.ts'
import type { CompiledRoute } from '../../routing/addresses/compiled-route.ts'

type Paged = Take & { kind: 'pages' }

/** Addresses of a route that are tried until one has a second page. */
const TRIED = 50
/** Words of titles that are searched for to get a second page. */
const WORDS = 8

export const pagerWrong: Rule = {
  id: 'pager-wrong',
  area: 'templates',
  meaning: 'The links to the other pages of a listing lose the search or lead in the wrong direction.',
  why: 'Readers who go on to the next page get the pages of something else.',
  async run(facts) {
    const findings: RuleFinding[] = []
    let tested = 0
    for (const compiled of facts.definition.routes) {
      const take = pagedBy(facts, compiled)
      if (!take) continue
      for (const path of await secondPages(facts, compiled, take)) {
        tested++
        const fault = await faultAt(facts, path, take)
        if (!fault) continue
        findings.push({
          subject: `${compiled.route.name} ${fault.kind}`,
          title: `${path}: ${fault.text}`,
          detail: `The link is ${fault.href}.`,
          affects: 'now',
          witness: witness(path, fault.text, fault.href, fault.expected),
          cause: 'Build these links with “url_with”, or with the addresses of the listing: paged.next.url.',
          place: { document: templatePath(compiled.route.template ?? ''), line: null },
          others: [],
          fixes: [],
        })
        break
      }
    }
    return {
      findings,
      claim: {
        sentence:
          'On the second pages that were tried, links to other pages keep their parameters and direction',
        tested,
        things: ['page', 'pages'],
      },
    }
  },
}

function pagedBy({ definition }: Facts, { route }: CompiledRoute): Paged | undefined {
  if (route.template === undefined) return undefined
  for (const name of queriesOf(route)) {
    const meaning = definition.queries.get(name)
    if (meaning?.from === 'posts' && meaning.take.kind === 'pages' && meaning.take.by === 'number')
      return meaning.take
  }
  return undefined
}

/** Returns second pages of a listing that exist: of an address, and of a search. */
async function secondPages(facts: Facts, { route }: CompiledRoute, { parameter }: Paged): Promise<string[]> {
  const { known } = await facts.addresses()
  const pages: string[] = []
  const add = async (path: string) => {
    if ((await facts.request(path)).status === 200) pages.push(path)
  }
  for (const { path } of known.filter((one) => one.route === route.name).slice(0, TRIED)) {
    if (pages.length > 0) break
    await add(`${path}?${parameter}=2`)
  }
  const [search] = Object.entries(route.query ?? {}).flatMap(([name, type]) =>
    type === 'text' ? [name] : [],
  )
  if (search === undefined || /:/.test(route.path)) return pages
  const words = (await facts.slugged()).all.flatMap(({ kind, title, isPublic }) =>
    kind === 'post' && isPublic ? (title.toLowerCase().match(/\p{L}{3,}/gu) ?? []) : [],
  )
  const times = new Map<string, number>()
  for (const word of words) times.set(word, (times.get(word) ?? 0) + 1)
  const frequent = [...times].sort(([, a], [, b]) => b - a)
  for (const [word] of frequent.slice(0, WORDS)) {
    const before = pages.length
    await add(`${route.path}?${search}=${encodeURIComponent(word)}&${parameter}=2`)
    if (pages.length > before) break
  }
  return pages
}

interface PagerFault {
  kind: 'lost' | 'direction'
  text: string
  href: string
  expected: string
}

async function faultAt(facts: Facts, path: string, { parameter }: Paged): Promise<PagerFault | undefined> {
  const { links } = readPage((await facts.request(path)).body)
  const own = new URL(path, 'http://blog.invalid')
  for (const { href, rel } of links) {
    const target = ownPath(href, path)
    if (target === undefined) continue
    const to = new URL(target, 'http://blog.invalid')
    const isPage = to.searchParams.has(parameter) || rel === 'prev' || rel === 'next'
    if (to.pathname !== own.pathname || !isPage) continue
    for (const [name, value] of own.searchParams)
      if (name !== parameter && to.searchParams.get(name) !== value)
        return {
          kind: 'lost',
          text: `A link to another page loses “${name}”`,
          href,
          expected: `${name}=${value} in the link`,
        }
    const page = Number(to.searchParams.get(parameter) ?? 1)
    if ((rel === 'next' && page <= 2) || (rel === 'prev' && page >= 2))
      return {
        kind: 'direction',
        text: `The link to the ${rel === 'next' ? 'next' : 'previous'} page leads to page ${page}`,
        href,
        expected: rel === 'next' ? 'page 3' : 'page 1',
      }
  }
  return undefined
}
