/**
 * Which routes can be reached, and which share addresses: decided on the languages of their patterns, with an address
 * as proof. Heavy for many routes; meant for a worker.
 */
import type { AddressPolicy } from '../addresses/address.ts'
import { isTooComplex, Language } from './language.ts'
import type { CompiledRoute } from '../addresses/compiled-route.ts'
import { RouteTable } from '../addresses/table.ts'

export interface RouteReach {
  name: string
  /** `empty`: no canonical address has the pattern's form; `taken`: earlier routes answer all of them. */
  outcome: 'reached' | 'empty' | 'taken' | 'undecided'
  /** An address that only this route answers; for a taken one, an address it would answer. */
  witness: string | null
  /** Names of the earlier routes that answer its addresses, in order. */
  takenBy: string[]
}

export interface RouteOverlap {
  earlier: string
  later: string
  /** An address of both; the earlier route answers it. */
  witness: string
  /**
   * `earlier-within`: all of the earlier route's addresses, so it is the special case before the general one.
   * `later-within`, `same`: all of the later one's. `partial`: some of each.
   */
  relation: 'earlier-within' | 'later-within' | 'same' | 'partial'
}

export interface RouteAnalysis {
  reach: RouteReach[]
  overlaps: RouteOverlap[]
}

export interface AnalysedRoute {
  compiled: CompiledRoute
  /** True when it lets the next route try where its query finds nothing: then it takes no address for good. */
  passesOn: boolean
}

/** Short addresses of a route looked at before its whole language is. */
const EXAMPLES = 40

/**
 * @param known addresses that exist in this blog; a proof among them is preferred
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
  /** For each route: a few of its shortest addresses. */
  readonly #examples: readonly (readonly string[])[]
  readonly #known: KnownAddresses
  /** For each route: the earlier routes of its method that share addresses with it. */
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
    if (!language) throw new RangeError(`there is no route ${index}`)
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

/** By whether the earlier route lies within the later one, and the later within the earlier. */
const RELATIONS: readonly [
  readonly [RouteOverlap['relation'], RouteOverlap['relation']],
  readonly [RouteOverlap['relation'], RouteOverlap['relation']],
] = [
  ['partial', 'later-within'],
  ['earlier-within', 'same'],
]

/** Addresses of this blog by the routes whose patterns match them. */
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
