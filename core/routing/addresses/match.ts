/** Finds the route that answers an address, and says of every route tried before it why it did not. */
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
  /** Why the route did not answer; null for the one that did. */
  reason: string | null
}

export type Match =
  | { outcome: 'matched'; index: number; route: CompiledRoute; parameters: MatchedParameter[] }
  | { outcome: 'method-not-allowed'; allow: string[] }
  | { outcome: 'not-found' }

/**
 * First route in order that answers.
 * @param path normalised path of `readAddress`
 * @param from index of the first route to try; larger than 0 after “else the next route”
 */
export function matchRoute(table: RouteTable, method: string, path: string, from = 0): Match {
  const wanted = method === 'HEAD' ? 'GET' : method
  const allow = new Set<string>()
  for (const index of table.candidates(path)) {
    const route = index < from ? undefined : table.routes[index]
    if (!route) continue
    const found = route.pattern.regexp.exec(path)
    if (!found) continue
    const read = readParameters(route.pattern, found)
    if (!read.ok) continue
    if (route.method !== wanted) {
      allow.add(route.method)
      continue
    }
    return { outcome: 'matched', index, route, parameters: read.parameters }
  }
  if (allow.size === 0) return { outcome: 'not-found' }
  const methods = [...allow].flatMap((one) => (one === 'GET' ? ['GET', 'HEAD'] : [one]))
  return { outcome: 'method-not-allowed', allow: [...methods, 'OPTIONS'] }
}

function readParameters(
  pattern: Pattern,
  found: RegExpExecArray,
): { ok: true; parameters: MatchedParameter[] } | { ok: false; reason: string } {
  const parameters: MatchedParameter[] = []
  for (const [index, name] of pattern.names.entries()) {
    const raw = found[index + 1]
    if (raw === undefined) continue
    const type = pattern.types[index] ?? 'text'
    const read = PARAMETER_RULES[type].read(raw.includes('%') ? decodeURIComponent(raw) : raw)
    if (!read.ok) return { ok: false, reason: `${name} ${read.reason}` }
    parameters.push({ name, raw, type, value: read.value })
  }
  return { ok: true, parameters }
}

/**
 * The candidates tried for an address, in order, up to and including the one that answered.
 * Reads the same compiled patterns as `matchRoute`; called only when somebody watches.
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
  const found = route.pattern.regexp.exec(path)
  if (found) {
    const read = readParameters(route.pattern, found)
    if (!read.ok) return read.reason
    const wanted = method === 'HEAD' ? 'GET' : method
    return route.method === wanted
      ? 'its query found nothing, so the next route was tried'
      : `answers ${route.method} only`
  }
  return whereItParts(route.pattern.parts, path)
}

/** Follows the pattern as long as the address agrees, and names the first place where it does not. */
function whereItParts(parts: readonly PatternPart[], path: string): string {
  let rest = path
  for (const part of parts) {
    if (part.modifier !== '') return 'the rest of the path has another form'
    if (part.kind === 'fixed') {
      if (!rest.startsWith(part.text)) return firstDifference(part.text, rest)
      rest = rest.slice(part.text.length)
      continue
    }
    if (!rest.startsWith(part.prefix))
      return rest === ''
        ? `the address ends before :${part.name}`
        : `“${readable(segmentOf(rest))}” ≠ “${part.prefix}”`
    const text = rest.slice(part.prefix.length)
    const found = new RegExp(`^(?:${part.source})`, 'v').exec(text)?.[0]
    const segment = /^[^/]*/.exec(text)?.[0] ?? ''
    if (segment === '') return `the address ends before :${part.name}`
    if (found === undefined || (part.type !== undefined && found.length < segment.length)) {
      const meaning = part.type ? PARAMETER_RULES[part.type].meaning : `what :${part.name} allows`
      return `“${readable(segment)}” is not ${meaning}`
    }
    rest = text.slice(part.type === undefined && part.source === '[^\\/]+?' ? segment.length : found.length)
  }
  return rest === '' ? 'the rest of the path has another form' : `“${readable(rest)}” is left over`
}

const segmentOf = (rest: string) => /^\/?[^/]*/.exec(rest)?.[0] || 'nothing'

/** The first segment in which a pattern's text and an address part. */
function firstDifference(text: string, rest: string): string {
  const wanted = text.split('/')
  const found = rest.split('/')
  const at = wanted.findIndex((segment, index) => segment !== found[index])
  const [asked, given] = [wanted[at] ?? '', found[at]]
  return given === undefined || given === ''
    ? `the address ends before “${readable(asked)}”`
    : `“${readable(given)}” ≠ “${readable(asked)}”`
}

function readable(text: string): string {
  try {
    return decodeURIComponent(text)
  } catch {
    return text
  }
}
