/** Finds redirects to addresses of this blog that do not exist. */
import { redirectNeedsData } from '../../routing/addresses/redirect.ts'
import { placeOfRoute, witness, type Rule, type RuleFinding } from '../rule.ts'
import { sampleOf, type SampleSize } from '../sample.ts'

const TRIED: SampleSize = { oldest: 1, newest: 2, between: 2 }

export const redirectNowhere: Rule = {
  id: 'redirect-nowhere',
  area: 'routing',
  meaning: 'A route redirects to an address of this blog that does not exist.',
  why: 'Readers who follow an old link end at a 404 page.',
  async run(facts) {
    const { known } = await facts.addresses()
    const redirects = facts.definition.routes.flatMap(({ route }) => {
      const to = route.redirect?.to
      if (to?.startsWith('/') !== true) return []
      if (redirectNeedsData(route))
        return sampleOf(
          known.filter((one) => one.route === route.name),
          TRIED,
        ).map(({ path }) => ({ route, from: path }))
      // With parameters, the target depends on the address.
      return /:\w/.test(to) ? [] : [{ route, from: route.path }]
    })
    const findings: RuleFinding[] = []
    for (const { route, from } of redirects) {
      const { location } = await facts.request(from)
      const to = location ?? route.redirect?.to ?? ''
      // The next redirect is a finding of its own, if it leads nowhere.
      if (!to.startsWith('/') || findings.some((one) => one.subject === route.name)) continue
      const { status } = await facts.request(to.replace(/#.*$/s, ''))
      if (status < 400) continue
      findings.push({
        subject: route.name,
        title: `Route “${route.name}” redirects to ${to}, which answers ${status}`,
        detail: `${from} leads readers there.`,
        affects: 'now',
        witness: witness(from, `${to} answers ${status}`, String(status), '200'),
        cause: 'The target was moved or never existed.',
        place: placeOfRoute(facts, route.name),
        others: [],
        fixes: [],
      })
    }
    return {
      findings,
      claim: {
        sentence: 'Every redirect within this blog that was tried has a target',
        tested: redirects.length,
        things: ['redirect', 'redirects'],
      },
    }
  },
}
