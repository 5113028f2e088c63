/** Finds routes that never answer, because earlier routes match all of their addresses or no address matches them. */
import { moveRoute, removeRoute, setRoutePath } from '../../blog/edit.ts'
import type { RouteReach } from '../../routing/analysis/analysis.ts'
import type { Facts } from '../facts.ts'
import { groupBy } from '../group-by.ts'
import { fixRoutes, placeOfRoute, routeOf, witness, type Rule, type RuleFinding } from '../rule.ts'

export const routeNeverReached: Rule = {
  id: 'route-never-reached',
  area: 'routing',
  meaning:
    'A route can never answer, because earlier routes match all of its addresses or no canonical address matches it.',
  why: 'Routes are tried from top to bottom. An address that an earlier route matches never gets to a later one, whatever its query would find.',
  async run(facts) {
    const { reach } = await facts.analysis()
    const findings = []
    const takenRoutes = reach.filter((one) => one.outcome === 'taken')
    // The same earlier routes are the same cause.
    for (const group of groupBy(takenRoutes, (one) => one.takenBy.join(' ')).values())
      findings.push(await taken(facts, group))
    for (const one of reach) if (one.outcome === 'empty') findings.push(empty(facts, one.name))
    const reached = reach.filter((one) => one.outcome === 'reached').length
    return {
      findings,
      claim:
        reached === reach.length
          ? { sentence: 'Every route can be reached', tested: reached, things: ['route', 'routes'] }
          : null,
    }
  },
}

async function taken(facts: Facts, group: readonly RouteReach[]): Promise<RuleFinding> {
  const [one] = group
  if (!one) throw new Error('Routes that take no address are no finding.')
  const { name, takenBy } = one
  const address = one.witness ?? ''
  const [first = ''] = takenBy
  const { status, route } = await facts.request(address)
  const names = group.map((other) => other.name)
  const by = takenBy.map((other) => `“${other}”`).join(', ')
  const together = takenBy.length > 1 ? `the earlier routes ${by}` : `the earlier route ${by}`
  const isOne = group.length === 1
  return {
    subject: isOne ? name : takenBy.join(' '),
    title: isOne
      ? `Route “${name}” is unreachable`
      : `${group.length} routes are unreachable behind ${by}: ${names.join(', ')}`,
    detail: `All addresses of route “${name}”, such as ${address}, are matched by ${together}.`,
    affects: 'now',
    witness: witness(
      address,
      route === null ? `No route answers ${address}` : `Route “${route}” answers ${address}`,
      String(status),
      `route “${name}”`,
    ),
    cause: 'The first route that matches answers.',
    place: placeOfRoute(facts, isOne ? name : first),
    others: group.slice(1).flatMap((other) => other.witness ?? []),
    fixes: [
      ...fixRoutes(
        facts,
        isOne ? `Move above route “${first}”` : `Move them above route “${first}”`,
        `Route “${name}” answers ${address}.`,
        (text) =>
          names.reduce<string | undefined>((moved, other) => moved && moveRoute(moved, other, first), text),
      ),
      ...(isOne
        ? fixRoutes(
            facts,
            'Delete the route',
            'Nothing changes for readers, because it never answered.',
            (text) => removeRoute(text, name),
          )
        : []),
    ],
  }
}

function empty(facts: Facts, name: string): RuleFinding {
  const path = routeOf(facts, name)?.pattern.text ?? ''
  const { policy } = facts.definition
  const canonical = (policy.letterCase === 'lower' ? withoutCapitals(path) : path)
    .replace(/\/{2,}/g, '/')
    .replace(/(.)\/$/, '$1')
  const why =
    canonical === path
      ? 'no canonical address has this form'
      : path.toLowerCase() === canonical
        ? 'canonical addresses are in lower case'
        : 'canonical addresses have no double and no trailing slashes'
  return {
    subject: name,
    title: `Route “${name}” is unreachable`,
    detail: `${path} matches no address, because ${why}.`,
    affects: 'now',
    witness: witness(
      canonical === path ? null : canonical,
      canonical === path
        ? `No canonical address matches ${path}`
        : `${path} redirects to ${canonical} before routes are tried`,
    ),
    cause:
      'The address policy redirects all other forms to the canonical address, and patterns only see that.',
    place: placeOfRoute(facts, name),
    others: [],
    fixes:
      canonical === path
        ? []
        : fixRoutes(
            facts,
            `Change its path to ${canonical}`,
            `Route “${name}” answers ${canonical}.`,
            (text) => setRoutePath(text, name, canonical),
          ),
  }
}

/** Lower-cases fixed text, but not names of parameters or regular expressions. */
const withoutCapitals = (path: string) =>
  path.replace(/:[A-Za-z_$][\w$]*|\((?:[^()\\]|\\.|\([^)]*\))*\)|[A-Z]+/g, (found) =>
    /^[:(]/.test(found) ? found : found.toLowerCase(),
  )
