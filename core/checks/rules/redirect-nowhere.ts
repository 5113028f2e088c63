/** Finds redirects to addresses of this blog that do not exist. */
import { placeOfRoute, witness, type Rule } from '../rule.ts'

export const redirectNowhere: Rule = {
  id: 'redirect-nowhere',
  area: 'routing',
  meaning: 'A route redirects to an address of this blog that does not exist.',
  why: 'Readers who follow an old link end at a 404 page.',
  async run(facts) {
    const redirects = facts.definition.routes.flatMap(({ route }) => {
      const to = route.redirect?.to
      // With parameters, the target depends on the address.
      return to?.startsWith('/') && !/:\w/.test(to) ? [{ route, to }] : []
    })
    const findings = []
    for (const { route, to } of redirects) {
      const { status } = await facts.request(to.replace(/#.*$/s, ''))
      if (status < 400) continue
      findings.push({
        subject: route.name,
        title: `Route “${route.name}” redirects to ${to}, which answers ${status}`,
        detail: `${route.path} leads readers there.`,
        affects: 'now' as const,
        witness: witness(route.path, `${to} answers ${status}`, String(status), '200'),
        cause: 'The target was moved or never existed.',
        place: placeOfRoute(facts, route.name),
        others: [],
        fixes: [],
      })
    }
    return {
      findings,
      claim: {
        sentence: 'Every redirect to a fixed address of this blog has a target',
        tested: redirects.length,
        things: ['redirect', 'redirects'],
      },
    }
  },
}
