/** A route with its compiled pattern, on which matching, building and analysis work. */
import type { Route } from '../../shapes/schemas.ts'
import { linearTime } from '../patterns/linear-time.ts'
import { compilePattern, type Pattern, type PatternError } from '../patterns/pattern.ts'

export interface CompiledRoute {
  route: Route
  pattern: Pattern
  /** A GET route also answers HEAD. */
  method: 'GET' | 'POST'
  /** Which of its data blog.yaml declares for all routes. Only templates see it; JSON and feeds do not have it. */
  shared: ReadonlySet<string>
}

const NOTHING_SHARED: ReadonlySet<string> = new Set()

/** Compiles a route. Fails if the pattern is not valid or cannot be matched in linear time. */
export function compileRoute(
  route: Route,
): { ok: true; compiled: CompiledRoute } | { ok: false; error: PatternError } {
  const result = compilePattern(route.path, route.params)
  if (!result.ok) return result
  const verdict = linearTime(result.pattern)
  if (!verdict.ok) {
    const at = verdict.parameter === undefined ? -1 : route.path.indexOf(`:${verdict.parameter}`)
    return { ok: false, error: { reason: verdict.reason, at: Math.max(at, 0) } }
  }
  const method = route.action ? 'POST' : 'GET'
  return { ok: true, compiled: { route, pattern: result.pattern, method, shared: NOTHING_SHARED } }
}
