/**
 * The fields of a response for the edge cache: its lifetime there (`CDN-Cache-Control`, RFC 9213) and its groups
 * (`Cache-Groups`, RFC 9875). Browsers and caches that are not purged use `Cache-Control`.
 */
import type { Dependence } from '../../../core/caching/dependence.ts'
import { groupsField, groupsOf } from '../../../core/caching/groups.ts'
import { edgeLifetime } from '../../../core/caching/rules.ts'
import type { Copy } from '../../../core/caching/store.ts'
import type { SitePort } from '../../publish/ports.ts'
import type { FragmentPort } from '../page-request.ts'

/** Returns how long the edge cache may store a page now, in milliseconds; 0 if it must not. */
export const edgeLifetimeNow = (
  { purgesEdge }: Pick<FragmentPort, 'purgesEdge'>,
  { definition }: SitePort['site'],
): number => (purgesEdge ? edgeLifetime(definition.cache) : 0)

const fields = new WeakMap<Dependence, string>()

/**
 * Returns the fields of a copy that is refreshed on change and has no form.
 * @param longest the lifetime in the rule, in milliseconds
 * @param now in milliseconds of the store's clock
 */
export function edgeFields(
  { dependence, madeAt, expiresAt }: Copy,
  longest: number,
  now: number,
): Record<string, string> {
  const left = Math.floor(Math.min(expiresAt - now, longest) / 1_000)
  if (left <= 0) return {}
  let groups = fields.get(dependence)
  if (groups === undefined) fields.set(dependence, (groups = groupsField(groupsOf(dependence))))
  // `Age` counts from when the copy was made.
  const age = Math.max(0, Math.floor((now - madeAt) / 1_000))
  return {
    'cdn-cache-control': `max-age=${left + age}`,
    ...(groups === '' ? {} : { 'cache-groups': groups }),
  }
}
