/** Finds former addresses, known from slugs or from requests, that do not redirect to the row that has moved. */
import { addRoute } from '../../blog/edit.ts'
import type { Route } from '../../shapes/schemas.ts'
import type { Facts } from '../facts.ts'
import { groupBy } from '../group-by.ts'
import { deadLinks } from '../links.ts'
import { counted, fixRoutes, witness, type Rule, type RuleFinding } from '../rule.ts'
import { takenRoutes } from '../taken-routes.ts'

export const slugChangedNoRedirect: Rule = {
  id: 'slug-changed-no-redirect',
  area: 'routing',
  meaning: 'A former address of an existing row answers 404.',
  why: 'Other sites and bookmarks keep former addresses for years. A redirect is a single line.',
  async run(facts) {
    const former = await facts.former()
    const taken = await takenRoutes(facts)
    const failing: { path: string; title: string; slug: string; kind: string; status: number; by: string }[] =
      []
    let tested = 0
    for (const { paths, title, kind, slug, route } of former) {
      // Routes that never answer are a finding of their own.
      if (route !== null && taken.has(route)) continue
      if (paths.length > 0) tested++
      for (const path of paths) {
        const { status, route: by } = await facts.request(path)
        if (status < 300 || status >= 400) failing.push({ path, title, slug, kind, status, by: by ?? '' })
      }
    }
    const findings: RuleFinding[] = [...groupBy(failing, (one) => one.by)].flatMap(([by, group]) => {
      const [first] = group
      if (!first) return []
      const { path, title, slug, kind, status } = first
      return [
        {
          subject: path,
          title:
            group.length === 1
              ? `A former address of “${title}” leads nowhere`
              : `${counted(group.length, 'former address', 'former addresses')} lead nowhere, among them one of “${title}”`,
          detail: `${path} answers ${status}. “${slug}” was its ${kind === 'page' ? 'path' : 'slug'}.`,
          affects: 'now' as const,
          witness: witness(path, `${path} was an address of “${title}”`, String(status), '301'),
          cause: `The slug is stored, but ${by === '' ? 'another route' : `route “${by}”`} answers this address first.`,
          place: null,
          others: group.slice(1).map((one) => one.path),
          fixes: [],
        },
      ]
    })
    findings.push(...(await movedRoutes(facts)))
    return {
      findings,
      claim: {
        sentence: 'Every former slug redirects',
        ofSample: 'Every former slug tested redirects',
        tested,
        of: former.length,
        things: ['slug', 'slugs'],
        chosen: 'those from which a route builds an address',
      },
    }
  },
}

interface Moved {
  path: string
  title: string
  /** How often it was requested, and in how many places it is linked. */
  times: number
  links: number
}

/** Returns how often such addresses were requested and linked. */
const evidence = (times: number, links: number) =>
  [
    ...(times > 0 ? [`${counted(times, 'request')} so far.`] : []),
    ...(links > 0 ? [`${counted(links, 'link')} to such addresses.`] : []),
  ].join(' ')

/**
 * Finds requested and linked addresses that answer 404 although their last segment is the slug of a row with another
 * address. Each route that has moved is one finding.
 */
async function movedRoutes(facts: Facts): Promise<RuleFinding[]> {
  const notFound = await facts.notFound()
  const { moved } = await deadLinks(facts)
  const slugOf = (path: string) => path.split('/').at(-1) ?? ''
  const visible = await facts.visibleBySlug([
    ...new Set(notFound.map((one) => slugOf(one.path)).filter((slug) => slug !== '')),
  ])
  const groups = new Map<string, { prefix: string; target: string; requests: Moved[] }>()
  const add = (row: Moved, at: string) => {
    const prefix = row.path.slice(0, row.path.lastIndexOf('/') + 1)
    const target = at.slice(0, at.lastIndexOf('/') + 1)
    const group = groups.get(`${prefix} ${target}`) ?? { prefix, target, requests: [] }
    if (!group.requests.some((one) => one.path === row.path)) group.requests.push(row)
    groups.set(`${prefix} ${target}`, group)
  }
  for (const { path, times } of notFound) {
    const found = visible.get(slugOf(path))
    if (!found || found.path === path || (await facts.request(path)).status !== 404) continue
    add({ path, times, title: found.title, links: 0 }, found.path)
  }
  for (const [path, { target, title, times }] of moved)
    add({ path: path.replace(/[?].*$/s, ''), times: 0, title, links: times }, target)
  return [...groups.values()].flatMap(({ prefix, target, requests }) => {
    const [first] = requests
    if (!first) return []
    const times = requests.reduce((sum, one) => sum + one.times, 0)
    const name = `old${prefix.replace(/[^a-z0-9]+/g, '-').replace(/-$/, '')}`
    const route: Route = {
      name: name === 'old' ? 'old-addresses' : name,
      path: `${prefix}:slug`,
      params: { slug: 'slug' },
      redirect: { to: `${target}:slug` },
    }
    const isFree =
      !facts.definition.routes.some((one) => one.route.name === route.name) && /^[a-z0-9-]+$/.test(route.name)
    return [
      {
        subject: `${prefix} ${target}`,
        title: `Addresses under ${prefix} have moved to ${target}`,
        detail: `${first.path} answers 404, but “${first.title}” is at ${target}${slugOf(first.path)}. ${evidence(
          times,
          requests.reduce((sum, one) => sum + one.links, 0),
        )}`,
        affects: 'now' as const,
        witness: witness(
          first.path,
          first.times > 0
            ? `${first.path} was requested ${counted(first.times, 'time')}`
            : `${first.path} is linked in ${counted(first.links, 'place')}`,
          '404',
          '301',
        ),
        cause: `No route matches addresses under ${prefix}, but their posts exist.`,
        place: null,
        others: requests.slice(1).map((one) => one.path),
        fixes: isFree
          ? fixRoutes(
              facts,
              `Redirect ${route.path} to ${target}:slug`,
              `${first.path} redirects to “${first.title}” with 301.`,
              (text) => addRoute(text, route, facts.definition.routes[0]?.route.name),
            )
          : [],
      },
    ]
  })
}
