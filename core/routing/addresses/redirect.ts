/** Computes the target of a redirect route. */
import { readAddress, type AddressPolicy } from './address.ts'
import type { MatchedParameter } from './match.ts'

const PARAMETER = /:([A-Za-z_$][\w$]*)/g

/** Returns where the path of a target starts, so that the colons of a scheme and a port are not parameters. */
const pathStart = (to: string) => /^https?:\/\/[^/]*/.exec(to)?.[0].length ?? 0

/** Returns the names of the parameters in a target. */
export const redirectParameters = (to: string): string[] =>
  [...to.slice(pathStart(to)).matchAll(PARAMETER)].map((found) => found[1] ?? '')

/**
 * Fills in a target's parameters as they are in the address. The query string is kept unless the target has its own.
 * A path of this blog is made canonical, so that one redirect is enough.
 */
export function redirectTarget(
  to: string,
  parameters: readonly Pick<MatchedParameter, 'name' | 'raw'>[],
  query: string,
  policy: AddressPolicy,
): string {
  const start = pathStart(to)
  const filled =
    to.slice(0, start) +
    to
      .slice(start)
      .replace(PARAMETER, (_, name: string) => parameters.find((one) => one.name === name)?.raw ?? '')
  const [beforeFragment = '', fragment] = filled.split('#', 2)
  const hash = fragment === undefined ? '' : `#${fragment}`
  const whole = query === '' || beforeFragment.includes('?') ? beforeFragment : `${beforeFragment}?${query}`
  if (start > 0) return whole + hash
  const reading = readAddress(whole, policy)
  return (!reading.ok && reading.status === 308 ? reading.to : whole) + hash
}
