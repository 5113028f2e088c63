/** Finds the route that matches a path, and explains why the routes before it do not. */
import type { CompiledRoute } from './compiled-route.ts'
import { PARAMETER_RULES, type ParameterValue } from '../patterns/parameters.ts'
import type { RouteTable } from './table.ts'
import type { Pattern, PatternPart } from '../patterns/pattern.ts'

export interface MatchedParameter {
  name: string
  /** As in the address, percent-encoded. */
  raw: string
  type: string
  value: ParameterValue
}

export interface Candidate {
  route: string
  pattern: string
  /** Why the route did not answer; null for the route that did. */
  reason: string | null
}

export type Match =
  | { outcome: 'matched'; index: number; route: CompiledRoute; parameters: MatchedParameter[] }
  | { outcome: 'method-not-allowed'; allow: string[] }
  | { outcome: 'not-found' }

/**
 * Returns the first route that matches.
 * @param path the path from `readAddress`
 * @param from index of the first route to try; greater than 0 after a route that continues with the next
 */
export function matchRoute(table: RouteTable, method: string, path: string, from = 0): Match {
  const wanted = method === 'HEAD' ? 'GET' : method
  const allow = new Set<string>()
  for (const index of table.candidates(path)) {
    const route = index < from ? undefined : table.routes[index]
    if (!route) continue
    const found = route.pattern.regexp.exec(path)
    if (!found) continue
    if (route.method !== wanted) {
      allow.add(route.method)
      continue
    }
    return { outcome: 'matched', index, route, parameters: readParameters(route.pattern, found) }
  }
  if (allow.size === 0) return { outcome: 'not-found' }
  const methods = [...allow].flatMap((one) => (one === 'GET' ? ['GET', 'HEAD'] : [one]))
  return { outcome: 'method-not-allowed', allow: [...methods, 'OPTIONS'] }
}

function readParameters(pattern: Pattern, found: RegExpExecArray): MatchedParameter[] {
  return pattern.names.flatMap((name, index) => {
    const raw = found[index + 1]
    if (raw === undefined) return []
    const type = pattern.types[index] ?? 'text'
    const value = PARAMETER_RULES[type].read(raw.includes('%') ? decodeURIComponent(raw) : raw)
    return [{ name, raw, type, value }]
  })
}

/**
 * Lists the routes tried for a path, in order, up to and including the one that answered. It uses the same compiled
 * patterns as `matchRoute`, and only walks call it.
 */
export function explainMatch(
  { routes }: RouteTable,
  method: string,
  path: string,
  match: Match,
): Candidate[] {
  const end = match.outcome === 'matched' ? match.index : routes.length
  const candidates = routes.slice(0, end).map((route) => ({
    route: route.route.name,
    pattern: route.pattern.text,
    reason: whyNot(route, method, path),
  }))
  if (match.outcome === 'matched') {
    candidates.push({ route: match.route.route.name, pattern: match.route.pattern.text, reason: '' })
  }
  return candidates.map((one) => ({ ...one, reason: one.reason === '' ? null : one.reason }))
}

function whyNot(route: CompiledRoute, method: string, path: string): string {
  if (route.pattern.regexp.test(path)) {
    const wanted = method === 'HEAD' ? 'GET' : method
    return route.method === wanted
      ? 'its query found no row, so the next route was tried'
      : `it answers only ${route.method}`
  }
  return firstMismatch(route.pattern.parts, path)
}

/** Describes the first place where a path does not match the parts of a pattern. */
function firstMismatch(parts: readonly PatternPart[], path: string): string {
  let rest = path
  for (const part of parts) {
    if (part.modifier !== '') return 'the rest of the path does not match'
    if (part.kind === 'fixed') {
      if (!rest.startsWith(part.text)) return firstDifference(part.text, rest)
      rest = rest.slice(part.text.length)
      continue
    }
    if (!rest.startsWith(part.prefix))
      return rest === ''
        ? `the address ends before :${part.name}`
        : `“${decoded(segmentOf(rest))}” ≠ “${part.prefix}”`
    const text = rest.slice(part.prefix.length)
    const found = new RegExp(`^(?:${part.source})`, 'v').exec(text)?.[0]
    const segment = /^[^/]*/.exec(text)?.[0] ?? ''
    if (segment === '') return `the address ends before :${part.name}`
    if (found === undefined || (part.type !== undefined && found.length < segment.length)) {
      const meaning = part.type ? PARAMETER_RULES[part.type].meaning : `a match for :${part.name}`
      return `“${decoded(segment)}” is not ${meaning}`
    }
    rest = text.slice(part.type === undefined && part.source === '[^\\/]+?' ? segment.length : found.length)
  }
  return rest === '' ? 'the rest of the path does not match' : `“${decoded(rest)}” is left over`
}

const segmentOf = (rest: string) => /^\/?[^/]*/.exec(rest)?.[0] || 'nothing'

/** Describes the first segment in which a pattern's text and a path differ. */
function firstDifference(text: string, rest: string): string {
  const wanted = text.split('/')
  const found = rest.split('/')
  const at = wanted.findIndex((segment, index) => segment !== found[index])
  const [expected, actual] = [wanted[at] ?? '', found[at]]
  return actual === undefined || actual === ''
    ? `the address ends before “${decoded(expected)}”`
    : `“${decoded(actual)}” ≠ “${decoded(expected)}”`
}

function decoded(text: string): string {
  try {
    return decodeURIComponent(text)
  } catch {
    return text
  }
}
