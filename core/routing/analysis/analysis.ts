/**
 * Decides which routes can be reached and which overlap, from the languages of their patterns, with an address as a
 * witness. Expensive for many routes, so it runs in a worker.
 */
import type { AddressPolicy } from '../addresses/address.ts'
import { isTooComplex, Language } from './language.ts'
import type { CompiledRoute } from '../addresses/compiled-route.ts'
import { RouteTable } from '../addresses/table.ts'

export interface RouteReach {
  name: string
  /** `empty`: no canonical address matches the pattern. `taken`: earlier routes answer all of its addresses. */
  outcome: 'reached' | 'empty' | 'taken' | 'undecided'
  /** An address that this route answers; for a taken route, one that it would answer. */
  witness: string | null
  /** The names of the earlier routes that answer its addresses, in order. */
  takenBy: string[]
}

export interface RouteOverlap {
  earlier: string
  later: string
  /** An address that matches both; the earlier route answers it. */
  witness: string
  /**
   * `earlier-within`: every address of the earlier route matches the later one, so it is a special case of it.
   * `later-within`: every address of the later route matches the earlier one. `same`: both. `partial`: neither.
   */
  relation: 'earlier-within' | 'later-within' | 'same' | 'partial'
}

export interface RouteAnalysis {
  reach: RouteReach[]
  overlaps: RouteOverlap[]
}

export interface AnalysedRoute {
  compiled: CompiledRoute
  /** Whether the next route is tried when its query finds no row. Then it does not take any address. */
  passesOn: boolean
}

/** How many short addresses of a route are tested before its whole language is computed. */
const EXAMPLES = 40

/**
 * Analyses the reach and the overlaps of all routes.
 * @param known addresses that exist in this blog, which are preferred as witnesses
 */
export function analyseRoutes(
  routes: readonly AnalysedRoute[],
  policy: AddressPolicy,
  known: readonly string[] = [],
): RouteAnalysis {
  const analysis = new Analysis(routes, policy, known)
  return { reach: analysis.reach(), overlaps: analysis.overlaps() }
}

class Analysis {
  readonly #routes: readonly AnalysedRoute[]
  readonly #languages: readonly Language[]
  /** A few of the shortest addresses of each route. */
  readonly #examples: readonly (readonly string[])[]
  readonly #known: KnownAddresses
  /** The earlier routes with the same method that overlap with each route. */
  readonly #sharing: readonly (readonly number[])[]

  constructor(routes: readonly AnalysedRoute[], policy: AddressPolicy, known: readonly string[]) {
    this.#routes = routes
    this.#languages = routes.map(({ compiled }) => Language.of(compiled.pattern, policy.letterCase))
    this.#examples = this.#languages.map((language) => [...language.examples(EXAMPLES)])
    const table = new RouteTable(routes.map((one) => one.compiled))
    this.#known = new KnownAddresses(table, known)
    this.#sharing = routes.map((_, later) =>
      [...routes.keys()].slice(0, later).filter((earlier) => this.#share(table, earlier, later)),
    )
  }

  #languageOf(index: number): Language {
    const language = this.#languages[index]
    if (!language) throw new RangeError(`There is no route ${index}.`)
    return language
  }

  #nameOf = (index: number): string => this.#routes[index]?.compiled.route.name ?? ''

  #matches(index: number, address: string): boolean {
    return this.#routes[index]?.compiled.pattern.regexp.test(address) ?? false
  }

  #share(table: RouteTable, earlier: number, later: number): boolean {
    if (this.#routes[earlier]?.compiled.method !== this.#routes[later]?.compiled.method) return false
    if (!table.mayShare(earlier, later)) return false
    return (
      this.#examples[later]?.some((one) => this.#matches(earlier, one)) ||
      this.#languageOf(earlier).overlaps(this.#languageOf(later))
    )
  }

  reach(): RouteReach[] {
    return this.#routes.map((_, index) => {
      try {
        return this.#reachOf(index)
      } catch (error) {
        if (!isTooComplex(error)) throw error
        return { name: this.#nameOf(index), outcome: 'undecided', witness: null, takenBy: [] }
      }
    })
  }

  #reachOf(index: number): RouteReach {
    const name = this.#nameOf(index)
    const language = this.#languageOf(index)
    if (language.isEmpty) return { name, outcome: 'empty', witness: null, takenBy: [] }
    const before = this.#sharing[index]?.filter((one) => this.#routes[one]?.passesOn === false) ?? []
    const isFree = (address: string) => !before.some((one) => this.#matches(one, address))
    const known = this.#known.of(index)
    const free =
      known.find(isFree) ??
      this.#examples[index]?.find(isFree) ??
      language.outside(before.map((one) => this.#languageOf(one)))
    if (free !== undefined) return { name, outcome: 'reached', witness: free, takenBy: [] }
    const witness = known[0] ?? language.shortest() ?? null
    return { name, outcome: 'taken', witness, takenBy: before.map(this.#nameOf) }
  }

  overlaps(): RouteOverlap[] {
    return this.#sharing.flatMap((earlier, later) =>
      earlier.map((one) => ({
        earlier: this.#nameOf(one),
        later: this.#nameOf(later),
        witness: this.#sharedBy(one, later),
        relation: RELATIONS[this.#isWithin(one, later) ? 1 : 0][this.#isWithin(later, one) ? 1 : 0],
      })),
    )
  }

  #sharedBy(earlier: number, later: number): string {
    return (
      this.#known.ofBoth(earlier, later) ??
      this.#languageOf(earlier).sharedWith(this.#languageOf(later)) ??
      ''
    )
  }

  #isWithin(inner: number, outer: number): boolean {
    if (this.#examples[inner]?.some((one) => !this.#matches(outer, one))) return false
    return this.#languageOf(inner).isWithin(this.#languageOf(outer))
  }
}

/** The relation by whether the earlier route is within the later one, and the later within the earlier. */
const RELATIONS: readonly [
  readonly [RouteOverlap['relation'], RouteOverlap['relation']],
  readonly [RouteOverlap['relation'], RouteOverlap['relation']],
] = [
  ['partial', 'later-within'],
  ['earlier-within', 'same'],
]

/** Addresses that exist in this blog, by the routes that match them. */
class KnownAddresses {
  readonly #byRoute = new Map<number, string[]>()

  constructor(table: RouteTable, addresses: readonly string[]) {
    for (const address of addresses)
      for (const index of table.candidates(address)) {
        if (!table.routes[index]?.pattern.regexp.test(address)) continue
        const known = this.#byRoute.get(index)
        if (known) known.push(address)
        else this.#byRoute.set(index, [address])
      }
  }

  of(route: number): readonly string[] {
    return this.#byRoute.get(route) ?? []
  }

  ofBoth(one: number, other: number): string | undefined {
    const others = new Set(this.of(other))
    return this.of(one).find((address) => others.has(address))
  }
}
