/** Builds addresses from routes and parameters, the reverse of matching. */
import { DEFAULT_POLICY, readAddress, withPolicySlash, type AddressPolicy } from './address.ts'
import { PARAMETER_RULES } from '../patterns/parameters.ts'
import type { PatternPart } from '../patterns/pattern.ts'
import type { Worded } from '../../shapes/catalogue.ts'
import { ADDRESS_PROBLEMS } from '../problems.ts'
import type { CompiledRoute } from './compiled-route.ts'

/** A percent-encoded path, or why none can be built. */
export type BuildResult = { ok: true; path: string } | { ok: false; problem: Worded }

/** Encodings of characters that RFC 3986 §3.3 allows in a segment unencoded: sub-delims, `:` and `@`. */
const SEGMENT_SAFE = /%(21|24|26|27|28|29|2A|2B|2C|3A|3B|3D|40)/g
const encodeSegment = (text: string) => encodeURIComponent(text).replace(SEGMENT_SAFE, decodeURIComponent)

const regexps = new WeakMap<PatternPart, RegExp>()

/** Returns the expression that a parameter's text must match. A repeated parameter has values separated by `/`. */
function regexpOf(part: PatternPart & { kind: 'parameter' }, repeats: boolean): RegExp {
  const known = regexps.get(part)
  if (known) return known
  const several = repeats && part.type !== 'path' && part.source !== '.*'
  const source = several ? `(?:${part.source})(?:/(?:${part.source}))*` : part.source
  const made = new RegExp(`^(?:${source})$`, 'v')
  regexps.set(part, made)
  return made
}

/**
 * Builds the path of a route. The route matches the built path with the same parameter values. Fails if a parameter is
 * missing or does not match.
 */
export function buildPath(
  compiled: CompiledRoute,
  parameters: Readonly<Record<string, unknown>>,
  policy: AddressPolicy = DEFAULT_POLICY,
): BuildResult {
  let path = ''
  for (const part of compiled.pattern.parts) {
    if (part.kind === 'fixed') {
      if (part.modifier === '' || part.modifier === '+') path += part.text
      continue
    }
    const value = Object.hasOwn(parameters, part.name) ? parameters[part.name] : undefined
    if (value === undefined || value === null || value === '') {
      if (part.modifier === '?' || part.modifier === '*') continue
      return {
        ok: false,
        problem: ADDRESS_PROBLEMS['address-parameter-missing'](compiled.route.name, part.name),
      }
    }
    const text = String(value)
    if (!text.isWellFormed())
      return { ok: false, problem: ADDRESS_PROBLEMS['address-parameter-malformed'](part.name) }
    const repeats =
      part.modifier === '*' || part.modifier === '+' || part.type === 'path' || part.source === '.*'
    const encoded = repeats ? text.split('/').map(encodeSegment).join('/') : encodeSegment(text)
    const rule = part.type ? PARAMETER_RULES[part.type] : undefined
    if (!regexpOf(part, repeats).test(encoded)) {
      const meaning = rule?.meaning ?? `a match for “${part.source}”`
      return { ok: false, problem: ADDRESS_PROBLEMS['address-parameter-mismatch'](text, part.name, meaning) }
    }
    path += part.prefix + encoded + part.suffix
  }
  const shown = withPolicySlash(path, policy)
  const reading = readAddress(shown, policy)
  if (reading.ok) return { ok: true, path: shown }
  return {
    ok: false,
    problem:
      reading.status === 308
        ? ADDRESS_PROBLEMS['address-not-canonical'](path, reading.reason)
        : ADDRESS_PROBLEMS['address-invalid'](path),
  }
}
