/** Finds redirects to addresses of this blog that do not exist. */
import { redirectNeedsData } from '../../routing/addresses/redirect.ts'
import type { Facts } from '../facts.ts'
import { placeOfRoute, witness, type Rule, type RuleFinding } from '../rule.ts'
import { sampleOf, type SampleSize } from '../sample.ts'

const TRIED: SampleSize = { oldest: 1, newest: 2, between: 2 }

/** Returns an address whose redirect leads nowhere, if that is so for a row of every kind: it is not known which is meant. */
async function leadingNowhere(
  facts: Facts,
  addressOf: (slug: string) => string,
): Promise<string | undefined> {
  const firsts = new Map<string, string>()
  for (const { kind, slug, isPublic } of (await facts.slugged()).all)
    if (isPublic && !firsts.has(kind) && !slug.includes('/')) firsts.set(kind, addressOf(slug))
  for (const from of firsts.values()) {
    const { location } = await facts.request(from)
    if (location?.startsWith('/') !== true) return undefined
    if ((await facts.request(location.replace(/#.*$/s, ''))).status < 400) return undefined
  }
  return firsts.get('post')
}

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
    for (const { route, pattern } of facts.definition.routes) {
      const to = route.redirect?.to
      const [parameter, ...more] = pattern.names
      if (to?.startsWith('/') !== true || redirectNeedsData(route) || !/:\w/.test(to)) continue
      if (parameter === undefined || more.length > 0 || route.params?.[parameter] !== 'slug') continue
      const from = await leadingNowhere(facts, (slug) => route.path.replace(`:${parameter}`, slug))
      if (from !== undefined) redirects.push({ route, from })
    }
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
