/** A route whose every address an earlier route takes, or whose pattern no canonical address has. */
import { moveRoute, removeRoute, setRoutePath } from '../../blog/edit.ts'
import type { Facts } from '../facts.ts'
import { mendRoutes, placeOfRoute, routeOf, witness, type Rule } from '../rule.ts'

export const routeNeverReached: Rule = {
  id: 'route-never-reached',
  area: 'routing',
  meaning: 'A route can never answer: every address of it goes to an earlier route, or none has its form.',
  why: 'Routes are tried from top to bottom. What an earlier pattern matches, a later one never sees, whatever its query would find.',
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
          ? { sentence: 'Every route can be reached', count: `${reached} of ${reach.length}` }
          : null,
    }
  },
}

async function taken(facts: Facts, name: string, address: string, takenBy: readonly string[]) {
  const [first = ''] = takenBy
  const { status, route } = await facts.ask(address)
  const by = takenBy.map((one) => `“${one}”`).join(', ')
  const together = takenBy.length > 1 ? `routes ${by} together` : `route ${by}`
  return {
    subject: name,
    title: `Route “${name}” is never reached`,
    detail: `Every address it would answer, such as ${address}, is taken by ${together}.`,
    affects: 'now' as const,
    witness: witness(
      address,
      route === null ? `${address} is answered by no route` : `${address} is answered by route “${route}”`,
      String(status),
      `route “${name}”`,
    ),
    because: `${together} ${takenBy.length > 1 ? 'stand' : 'stands'} before it, and the first that matches answers.`,
    place: placeOfRoute(facts, name),
    also: [],
    mends: [
      ...mendRoutes(
        facts,
        `Move it above route “${first}”`,
        `${address} is answered by route “${name}”.`,
        (text) => moveRoute(text, name, first),
      ),
      ...mendRoutes(facts, 'Take it out', 'Nothing changes for readers: it never answered.', (text) =>
        removeRoute(text, name),
      ),
    ],
  }
}

function empty(facts: Facts, name: string) {
  const path = routeOf(facts, name)?.pattern.text ?? ''
  const { policy } = facts.definition
  const canonical = (policy.letterCase === 'lower' ? withoutCapitals(path) : path)
    .replace(/\/{2,}/g, '/')
    .replace(/(.)\/$/, '$1')
  const why =
    canonical === path
      ? 'no canonical address has its form'
      : path.toLowerCase() === canonical
        ? 'addresses come in lower-case letters'
        : 'addresses come without double slashes and without one at the end'
  return {
    subject: name,
    title: `Route “${name}” is never reached`,
    detail: `${path} matches no address that is ever looked up: ${why}.`,
    affects: 'now' as const,
    witness: witness(
      canonical === path ? null : canonical,
      `${path} is led to ${canonical} before routes are tried`,
    ),
    because: 'The address policy leads every other form to one address; patterns see that one only.',
    place: placeOfRoute(facts, name),
    also: [],
    mends:
      canonical === path
        ? []
        : mendRoutes(
            facts,
            `Write its path as ${canonical}`,
            `${canonical} is answered by route “${name}”.`,
            (text) => setRoutePath(text, name, canonical),
          ),
  }
}

/** Fixed text in lower case; names of parameters and regular expressions stay. */
const withoutCapitals = (path: string) =>
  path.replace(/:[A-Za-z_$][\w$]*|\((?:[^()\\]|\\.|\([^)]*\))*\)|[A-Z]+/g, (found) =>
    /^[:(]/.test(found) ? found : found.toLowerCase(),
  )
