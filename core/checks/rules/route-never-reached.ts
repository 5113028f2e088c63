/** Finds routes that never answer, because earlier routes match all of their addresses or no address matches them. */
import { moveRoute, removeRoute, setRoutePath } from '../../blog/edit.ts'
import type { Facts } from '../facts.ts'
import { counted, fixRoutes, placeOfRoute, routeOf, witness, type Rule, type RuleFinding } from '../rule.ts'

export const routeNeverReached: Rule = {
  id: 'route-never-reached',
  area: 'routing',
  meaning:
    'A route can never answer, because earlier routes match all of its addresses or no canonical address matches it.',
  why: 'Routes are tried from top to bottom. An address that an earlier route matches never gets to a later one, whatever its query would find.',
  async run(facts) {
    const { reach } = await facts.analysis()
    const findings = []
    for (const one of reach) {
      if (one.outcome === 'taken' && one.witness !== null)
        findings.push(await taken(facts, one.name, one.witness, one.takenBy))
      if (one.outcome === 'empty') findings.push(empty(facts, one.name))
    }
    const reached = reach.filter((one) => one.outcome === 'reached').length
    return {
      findings,
      proven:
        reached === reach.length && reached > 0
          ? {
              sentence: 'Every route can be reached',
              count: `${reached} of ${counted(reach.length, 'route')}`,
            }
          : null,
    }
  },
}

async function taken(
  facts: Facts,
  name: string,
  address: string,
  takenBy: readonly string[],
): Promise<RuleFinding> {
  const [first = ''] = takenBy
  const { status, route } = await facts.request(address)
  const by = takenBy.map((one) => `“${one}”`).join(', ')
  const together = takenBy.length > 1 ? `the earlier routes ${by}` : `the earlier route ${by}`
  return {
    subject: name,
    title: `Route “${name}” is unreachable`,
    detail: `All of its addresses, such as ${address}, are matched by ${together}.`,
    affects: 'now',
    witness: witness(
      address,
      route === null ? `No route answers ${address}` : `Route “${route}” answers ${address}`,
      String(status),
      `route “${name}”`,
    ),
    cause: 'The first route that matches answers.',
    place: placeOfRoute(facts, name),
    others: [],
    fixes: [
      ...fixRoutes(facts, `Move above route “${first}”`, `Route “${name}” answers ${address}.`, (text) =>
        moveRoute(text, name, first),
      ),
      ...fixRoutes(
        facts,
        'Delete the route',
        'Nothing changes for readers, because it never answered.',
        (text) => removeRoute(text, name),
      ),
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
