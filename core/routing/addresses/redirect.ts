/** Where a redirect route leads. */
import { readAddress, type AddressPolicy } from './address.ts'
import type { MatchedParameter } from './match.ts'

const PARAMETER = /:([A-Za-z_$][\w$]*)/g

/** Another site's address keeps its scheme's colon, and its port's. */
const pathStart = (to: string) => /^https?:\/\/[^/]*/.exec(to)?.[0].length ?? 0

/** Names of the parameters that stand in a target. */
export const redirectParameters = (to: string): string[] =>
  [...to.slice(pathStart(to)).matchAll(PARAMETER)].map((found) => found[1] ?? '')

/**
 * The target with its parameters filled in, as they stood in the address; the query goes along where the target has
 * none of its own. A path of this blog comes in its canonical form, so that one redirect is enough.
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
