/** Computes the target of a redirect route: from the parameters of its address, and from rows that it loads. */
import { readAddress, type AddressPolicy } from './address.ts'
import type { Route } from '../../shapes/schemas.ts'
import type { MatchedParameter } from './match.ts'

/** A parameter, `:slug`, or a field of data, `:post.slug`. What follows the name of a parameter is not part of it. */
const PARAMETER = /:([A-Za-z_$][\w$]*)((?:\.[A-Za-z]\w*)*)/g

/** Returns where the path of a target starts, so that the colons of a scheme and a port are not parameters. */
const pathStart = (to: string) => /^https?:\/\/[^/]*/.exec(to)?.[0].length ?? 0

/** The names of a route's data. */
type DataNames = Readonly<Record<string, unknown>>

/** Returns the names of the parameters in a target, and the fields of data, e.g. `post.slug`. */
export function redirectReferences(
  to: string,
  data: DataNames = {},
): { parameters: string[]; fields: string[] } {
  const [parameters, fields]: [string[], string[]] = [[], []]
  for (const [, name = '', steps = ''] of to.slice(pathStart(to)).matchAll(PARAMETER))
    if (Object.hasOwn(data, name)) fields.push(name + steps)
    else parameters.push(name)
  return { parameters, fields }
}

/** Whether the target of a redirect depends on rows. */
export const redirectNeedsData = ({ redirect, data }: Pick<Route, 'redirect' | 'data'>): boolean =>
  redirect !== undefined && redirectReferences(redirect.to, data).fields.length > 0

/**
 * Fills in a target's parameters as they are in the address, and the fields of data. The query string is kept unless the
 * target has its own. A path of this blog is made canonical, so that one redirect is enough.
 * @param fields values by reference, e.g. `post.slug`
 */
export function redirectTarget(
  to: string,
  parameters: readonly Pick<MatchedParameter, 'name' | 'raw'>[],
  query: string,
  policy: AddressPolicy,
  fields: ReadonlyMap<string, string> = new Map(),
): string {
  const start = pathStart(to)
  const filled =
    to.slice(0, start) +
    to.slice(start).replace(PARAMETER, (_, name: string, steps: string) => {
      const value = fields.get(name + steps)
      if (value !== undefined) return value.split('/').map(encodeURIComponent).join('/')
      return (parameters.find((one) => one.name === name)?.raw ?? '') + steps
    })
  const [beforeFragment = '', fragment] = filled.split('#', 2)
  const hash = fragment === undefined ? '' : `#${fragment}`
  const whole = query === '' || beforeFragment.includes('?') ? beforeFragment : `${beforeFragment}?${query}`
  if (start > 0) return whole + hash
  const reading = readAddress(whole, policy)
  return (!reading.ok && reading.status === 308 ? reading.to : whole) + hash
}
