/** The routes in order, indexed so that a request tries only routes whose fixed segments match. */
import { LRUCache } from 'lru-cache'
import type { CompiledRoute } from './compiled-route.ts'
import type { Pattern } from '../patterns/pattern.ts'

/** How many segments the index covers. Patterns that differ only after these are tried in order. */
const DEPTH = 3
/** How many lists of candidates are cached. */
const CACHED = 5_000

/** What a pattern requires of a path's first segments. */
interface Demand {
  /** A fixed segment, or undefined if it varies or is not known. */
  segments: (string | undefined)[]
  /** The number of segments, if it is always the same. */
  count: number | undefined
}

export class RouteTable {
  readonly routes: readonly CompiledRoute[]
  readonly #demands: readonly Demand[]
  /** The fixed segments of all patterns, by position. All other segments are equivalent. */
  readonly #known: readonly ReadonlySet<string>[]
  readonly #candidates = new LRUCache<string, readonly number[]>({ max: CACHED })

  constructor(routes: readonly CompiledRoute[]) {
    this.routes = routes
    this.#demands = routes.map((one) => demandOf(one.pattern))
    this.#known = Array.from(
      { length: DEPTH },
      (_, at) => new Set(this.#demands.flatMap(({ segments }) => segments[at] ?? [])),
    )
  }

  /**
   * Returns the indexes of routes that may match, in order. Every route that matches is included.
   * @param path a canonical path
   */
  candidates(path: string): readonly number[] {
    const segments: (string | undefined)[] = []
    let count = 0
    let key = ''
    for (let start = 1; start <= path.length; count++) {
      const slash = path.indexOf('/', start)
      const end = slash === -1 ? path.length : slash
      if (count < DEPTH) {
        const segment = path.slice(start, end)
        const known = this.#known[count]?.has(segment) ? segment : undefined
        segments.push(known)
        key += known === undefined ? '\n' : `${known}\n`
      }
      start = end + 1
    }
    if (path === '/') count = 0
    key += count
    const found = this.#candidates.get(key)
    if (found) return found
    const made = [...this.#demands.keys()].filter((index) => {
      const demand = this.#demands[index]
      if (demand?.count !== undefined && demand.count !== count) return false
      return demand?.segments.every((wanted, at) => wanted === undefined || wanted === segments[at]) ?? true
    })
    this.#candidates.set(key, made)
    return made
  }

  /** Returns false only if no path can match both routes because their fixed segments differ. */
  mayShare(one: number, other: number): boolean {
    const [a, b] = [this.#demands[one], this.#demands[other]]
    if (!a || !b) return false
    if (a.count !== undefined && b.count !== undefined && a.count !== b.count) return false
    return a.segments.every((segment, at) => {
      const counterpart = b.segments[at]
      return segment === undefined || counterpart === undefined || segment === counterpart
    })
  }
}

/** Marks text that varies within a segment. */
const VARIES = '\0'

function demandOf({ parts }: Pattern): Demand {
  let text = ''
  let isWhole = true
  for (const part of parts) {
    const staysInSegment =
      part.kind === 'fixed' || (part.type !== undefined && part.type !== 'path') || part.source === '[^\\/]+?'
    if (part.modifier !== '' || !staysInSegment) {
      isWhole = false
      break
    }
    text += part.kind === 'fixed' ? part.text : `${part.prefix}${VARIES}${part.suffix}`
  }
  if (!text.startsWith('/')) return { segments: [], count: undefined }
  const all = text === '/' && isWhole ? [] : text.slice(1).split('/')
  // The last segment may continue where the pattern becomes unknown.
  const certain = isWhole ? all : all.slice(0, -1)
  return {
    segments: certain.slice(0, DEPTH).map((one) => (one.includes(VARIES) ? undefined : one)),
    count: isWhole ? all.length : undefined,
  }
}
