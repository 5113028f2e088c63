/** Redirect routes that lead to each other in a circle. */
import { removeRoute } from '../../blog/edit.ts'
import { mendRoutes, placeOfRoute, witness, type Rule } from '../rule.ts'

/** Redirects followed; browsers give up after about twenty (common practice). */
const FOLLOWED = 20

export const redirectLoop: Rule = {
  id: 'redirect-loop',
  area: 'routing',
  meaning: 'A redirect leads, over others, back to an address it came from.',
  why: 'The browser gives up and shows an error of its own; the reader sees nothing of the blog.',
  async run(facts) {
    const { reach } = await facts.analysis()
    const redirects = facts.definition.routes.filter((one) => one.route.redirect)
    const findings = []
    const told = new Set<string>()
    for (const { route } of redirects) {
      const start = reach.find((one) => one.name === route.name)
      if (start?.outcome !== 'reached' || start.witness === null) continue
      const way = [start.witness]
      for (let step = 0; step < FOLLOWED; step++) {
        const { status, location } = await facts.ask(way.at(-1) ?? '')
        if (status < 300 || status >= 400 || !location?.startsWith('/')) break
        const next = location.replace(/#.*$/s, '')
        const at = way.indexOf(next)
        way.push(next)
        if (at === -1) continue
        const circle = way.slice(at)
        const key = [...new Set(circle)].sort().join(' ')
        if (told.has(key)) break
        told.add(key)
        findings.push({
          subject: route.name,
          title: `Route “${route.name}” leads in a circle`,
          detail: `${circle.join(' → ')}.`,
          affects: 'now' as const,
          witness: witness(way[0] ?? '', circle.join(' → '), String(status), 'a page'),
          because: `It redirects to ${route.redirect?.to ?? ''}, which leads back.`,
          place: placeOfRoute(facts, route.name),
          also: [],
          mends: mendRoutes(
            facts,
            'Take the redirect out',
            `${way[0] ?? ''} is left to the other routes.`,
            (text) => removeRoute(text, route.name),
          ),
        })
        break
      }
    }
    return {
      findings,
      proven:
        redirects.length > 0
          ? { sentence: 'Every redirect arrives', count: `${redirects.length} redirects` }
          : null,
    }
  },
}
