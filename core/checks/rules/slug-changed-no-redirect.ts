/** An old address, still asked for or once given out, that no longer leads to what has moved. */
import { addRoute } from '../../blog/edit.ts'
import type { Route } from '../../shapes/schemas.ts'
import type { Facts } from '../facts.ts'
import { mendRoutes, witness, type Rule } from '../rule.ts'

export const slugChangedNoRedirect: Rule = {
  id: 'slug-changed-no-redirect',
  area: 'routing',
  meaning: 'An old address of something that is still there answers 404.',
  why: 'Other sites, letters and bookmarks keep old addresses for years. A redirect costs a line.',
  async run(facts) {
    const former = await facts.former()
    const findings = []
    for (const { paths, title, kind, slug } of former) {
      for (const path of paths) {
        const { status } = await facts.ask(path)
        if (status !== 404) continue
        findings.push({
          subject: path,
          title: `An old address of “${title}” leads nowhere`,
          detail: `${path} answers 404; “${slug}” was its ${kind === 'page' ? 'path' : 'slug'}.`,
          affects: 'now' as const,
          witness: witness(path, `${path} was an address of “${title}”`, '404', '301'),
          because: 'The slug is remembered, but no route that shows it is asked first at this address.',
          place: null,
          also: [],
          mends: [],
        })
      }
    }
    findings.push(...(await fromTraffic(facts)))
    return {
      findings,
      proven:
        former.length > 0
          ? { sentence: 'Every old slug still leads somewhere', count: `${former.length} slugs` }
          : null,
    }
  },
}

/** Addresses asked for in vain whose last part is the slug of something that lives elsewhere. */
async function fromTraffic(facts: Facts) {
  const unanswered = await facts.unanswered()
  const slugOf = (path: string) => path.split('/').at(-1) ?? ''
  const living = await facts.living([
    ...new Set(unanswered.map((one) => slugOf(one.path)).filter((slug) => slug !== '')),
  ])
  const groups = new Map<
    string,
    { prefix: string; target: string; asked: { path: string; times: number; title: string }[] }
  >()
  for (const { path, times } of unanswered) {
    const found = living.get(slugOf(path))
    if (!found || found.path === path || (await facts.ask(path)).status !== 404) continue
    const prefix = path.slice(0, path.lastIndexOf('/') + 1)
    const target = found.path.slice(0, found.path.lastIndexOf('/') + 1)
    const group = groups.get(`${prefix} ${target}`) ?? { prefix, target, asked: [] }
    group.asked.push({ path, times, title: found.title })
    groups.set(`${prefix} ${target}`, group)
  }
  return [...groups.values()].flatMap(({ prefix, target, asked }) => {
    const [first] = asked
    if (!first) return []
    const times = asked.reduce((sum, one) => sum + one.times, 0)
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
        title: `Addresses under ${prefix} are asked for, and live under ${target}`,
        detail: `${first.path} answers 404; “${first.title}” is at ${target}${slugOf(first.path)}. Asked ${times} ${times === 1 ? 'time' : 'times'}.`,
        affects: 'now' as const,
        witness: witness(
          first.path,
          `asked for ${first.times} ${first.times === 1 ? 'time' : 'times'}`,
          '404',
          '301',
        ),
        because: `No route answers ${prefix}…, but what is asked for there exists.`,
        place: null,
        also: asked.slice(1).map((one) => one.path),
        mends: isFree
          ? mendRoutes(
              facts,
              `Lead ${route.path} to ${target}:slug`,
              `${first.path} answers 301 and leads to “${first.title}”.`,
              (text) => addRoute(text, route, facts.definition.routes[0]?.route.name),
            )
          : [],
      },
    ]
  })
}
