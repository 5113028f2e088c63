/** Builds addresses: the reverse of matching. */
import { DEFAULT_POLICY, readAddress, withPolicySlash, type AddressPolicy } from './address.ts'
import { PARAMETER_RULES } from '../patterns/parameters.ts'
import type { PatternPart } from '../patterns/pattern.ts'
import type { CompiledRoute } from './compiled-route.ts'

export type BuildResult = { ok: true; path: string } | { ok: false; message: string }

/** What RFC 3986 §3.3 lets stand in a segment besides unreserved characters: sub-delims, `:` and `@`. */
const SEGMENT_SAFE = /%(21|24|26|27|28|29|2A|2B|2C|3A|3B|3D|40)/g
const encodeSegment = (text: string) => encodeURIComponent(text).replace(SEGMENT_SAFE, decodeURIComponent)

const regexps = new WeakMap<PatternPart, RegExp>()

/** What a parameter's text must match, several values with `/` between them where it repeats; compiled once. */
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
 * The path of a route for given parameters. What it builds, the route matches with the same values.
 * @returns the path, percent-encoded, or which parameter is missing or ill-typed
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
      return { ok: false, message: `route “${compiled.route.name}” needs “${part.name}”, which is missing` }
    }
    const text = String(value)
    if (!text.isWellFormed()) return { ok: false, message: `“${part.name}” is not well-formed text` }
    const repeats =
      part.modifier === '*' || part.modifier === '+' || part.type === 'path' || part.source === '.*'
    const encoded = repeats ? text.split('/').map(encodeSegment).join('/') : encodeSegment(text)
    const rule = part.type ? PARAMETER_RULES[part.type] : undefined
    if (!regexpOf(part, repeats).test(encoded) || rule?.read(text).ok === false) {
      return { ok: false, message: `“${text}” is not ${rule?.meaning ?? `what “${part.name}” allows`}` }
    }
    path += part.prefix + encoded + part.suffix
  }
  const shown = withPolicySlash(path, policy)
  const reading = readAddress(shown, policy)
  if (reading.ok) return { ok: true, path: shown }
  return {
    ok: false,
    message:
      reading.status === 308
        ? `“${path}” would be redirected (${reading.reason}), so this route would not get its parameters`
        : `“${path}” is not an address that could be asked for`,
  }
}
