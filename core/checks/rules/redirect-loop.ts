/** Finds redirect routes that lead to each other in a loop. */
import { removeRoute } from '../../blog/edit.ts'
import { fixRoutes, placeOfRoute, witness, type Rule } from '../rule.ts'

/** How many redirects are followed. Browsers give up after about twenty (common practice). */
const FOLLOWED = 20

export const redirectLoop: Rule = {
  id: 'redirect-loop',
  area: 'routing',
  meaning: 'A redirect leads, directly or through others, back to an address that it came from.',
  why: 'The browser gives up and shows an error of its own. Readers see nothing of the blog.',
  async run(facts) {
    const { reach } = await facts.analysis()
    const redirects = facts.definition.routes.filter((one) => one.route.redirect)
    const findings = []
    const reported = new Set<string>()
    let tested = 0
    for (const { route } of redirects) {
      const start = reach.find((one) => one.name === route.name)
      if (start?.outcome !== 'reached' || start.witness === null) continue
      tested++
      const way = [start.witness]
      for (let step = 0; step < FOLLOWED; step++) {
        const { status, location } = await facts.request(way.at(-1) ?? '')
        if (status < 300 || status >= 400 || !location?.startsWith('/')) break
        const next = location.replace(/#.*$/s, '')
        const at = way.indexOf(next)
        way.push(next)
        if (at === -1) continue
        const loop = way.slice(at)
        const key = [...new Set(loop)].sort().join(' ')
        if (reported.has(key)) break
        reported.add(key)
        findings.push({
          subject: route.name,
          title: `Route “${route.name}” redirects in a loop`,
          detail: `${loop.join(' → ')}.`,
          affects: 'now' as const,
          witness: witness(way[0] ?? '', loop.join(' → '), String(status), 'a page'),
          cause: `It redirects to ${route.redirect?.to ?? ''}, which leads back.`,
          place: placeOfRoute(facts, route.name),
          others: [],
          fixes: fixRoutes(facts, 'Delete the redirect', `Other routes answer ${way[0] ?? ''}.`, (text) =>
            removeRoute(text, route.name),
          ),
        })
        break
      }
    }
    return {
      findings,
      claim: {
        sentence: 'No redirect leads in a loop',
        ofSample: 'No redirect tested leads in a loop',
        tested,
        of: redirects.length,
        things: ['redirect', 'redirects'],
        chosen: 'those that answer an address',
      },
    }
  },
}
