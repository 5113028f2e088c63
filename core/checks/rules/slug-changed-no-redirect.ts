/** Finds former addresses, known from slugs or from requests, that do not redirect to the row that has moved. */
import { addRoute } from '../../blog/edit.ts'
import type { Route } from '../../shapes/schemas.ts'
import type { Facts } from '../facts.ts'
import { counted, fixRoutes, witness, type Rule } from '../rule.ts'

export const slugChangedNoRedirect: Rule = {
  id: 'slug-changed-no-redirect',
  area: 'routing',
  meaning: 'A former address of an existing row answers 404.',
  why: 'Other sites and bookmarks keep former addresses for years. A redirect is a single line.',
  async run(facts) {
    const former = await facts.former()
    const findings = []
    for (const { paths, title, kind, slug } of former) {
      for (const path of paths) {
        const { status } = await facts.request(path)
        if (status !== 404) continue
        findings.push({
          subject: path,
          title: `A former address of “${title}” leads nowhere`,
          detail: `${path} answers 404. “${slug}” was its ${kind === 'page' ? 'path' : 'slug'}.`,
          affects: 'now' as const,
          witness: witness(path, `${path} was an address of “${title}”`, '404', '301'),
          cause: 'The slug is stored, but another route answers this address first.',
          place: null,
          others: [],
          fixes: [],
        })
      }
    }
    findings.push(...(await fromTraffic(facts)))
    return {
      findings,
      proven:
        former.length > 0
          ? { sentence: 'Every former slug redirects', count: counted(former.length, 'slug') }
          : null,
    }
  },
}

/** Finds addresses that were not found and whose last segment is the slug of a row with another address. */
async function fromTraffic(facts: Facts) {
  const notFound = await facts.notFound()
  const slugOf = (path: string) => path.split('/').at(-1) ?? ''
  const visible = await facts.visibleBySlug([
    ...new Set(notFound.map((one) => slugOf(one.path)).filter((slug) => slug !== '')),
  ])
  const groups = new Map<
    string,
    { prefix: string; target: string; requests: { path: string; times: number; title: string }[] }
  >()
  for (const { path, times } of notFound) {
    const found = visible.get(slugOf(path))
    if (!found || found.path === path || (await facts.request(path)).status !== 404) continue
    const prefix = path.slice(0, path.lastIndexOf('/') + 1)
    const target = found.path.slice(0, found.path.lastIndexOf('/') + 1)
    const group = groups.get(`${prefix} ${target}`) ?? { prefix, target, requests: [] }
    group.requests.push({ path, times, title: found.title })
    groups.set(`${prefix} ${target}`, group)
  }
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
        detail: `${first.path} answers 404, but “${first.title}” is at ${target}${slugOf(first.path)}. ${counted(times, 'request')} so far.`,
        affects: 'now' as const,
        witness: witness(
          first.path,
          `${first.path} was requested ${counted(first.times, 'time')}`,
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
