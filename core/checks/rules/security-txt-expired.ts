/** Finds a security.txt whose data is out of date. */
import { placeOfRoute, witness, type Rule } from '../rule.ts'

/** Days before the end on which the finding is made. */
const AHEAD = 14
const DAY = 86_400_000

export const securityTxtExpired: Rule = {
  id: 'security-txt-expired',
  area: 'routing',
  meaning: 'security.txt has expired, or expires within two weeks.',
  why: 'An expired file must not be used to report a vulnerability (RFC 9116, section 2.5.5).',
  async run(facts) {
    const routes = facts.definition.routes.filter(({ route }) => route.security !== undefined)
    const findings = []
    for (const { route } of routes) {
      const [, expires = ''] = /^Expires: (.+)$/m.exec((await facts.request(route.path)).body) ?? []
      const left = Date.parse(expires) - facts.now.getTime()
      if (Number.isNaN(left) || left > AHEAD * DAY) continue
      findings.push({
        subject: route.name,
        title: left < 0 ? 'security.txt has expired' : 'security.txt expires soon',
        detail: `It says “Expires: ${expires}”.`,
        affects: 'now' as const,
        witness: witness(route.path, `${route.path} says “Expires: ${expires}”`, expires, 'a later day'),
        cause: 'Check that the contacts are right, and set “expires” to a day within a year.',
        place: placeOfRoute(facts, route.name),
        others: [],
        fixes: [],
      })
    }
    return {
      findings,
      claim:
        routes.length === 0
          ? null
          : { sentence: 'security.txt is valid', tested: routes.length, things: ['file', 'files'] },
    }
  },
}
