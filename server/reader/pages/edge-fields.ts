/**
 * What a page says to a cache elsewhere that is told what changes: how long it may be kept (RFC 9213), and the groups by
 * which it is dropped (RFC 9875). Browsers and other caches, which are not told, read `Cache-Control`.
 */
import type { Dependence } from '../../../core/caching/dependence.ts'
import { groupsField, groupsOf } from '../../../core/caching/groups.ts'
import { edgeLifetime } from '../../../core/caching/rules.ts'
import type { Copy } from '../../../core/caching/store.ts'
import type { SitePort } from '../../publish/ports.ts'
import type { FragmentPort } from '../page-request.ts'

/** Returns how long a page that is refreshed on change may be kept elsewhere, in milliseconds; 0 if it must not. */
export const longestElsewhere = (
  { purgesElsewhere }: Pick<FragmentPort, 'purgesElsewhere'>,
  { definition }: SitePort['site'],
): number => (purgesElsewhere ? edgeLifetime(definition.cache) : 0)

const fields = new WeakMap<Dependence, string>()

/**
 * Returns the fields of a copy that is refreshed on change, the same for all readers.
 * @param longest how long it may be kept, in milliseconds
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
  // The field `Age` counts from when the copy was made.
  const age = Math.max(0, Math.floor((now - madeAt) / 1_000))
  return {
    'cdn-cache-control': `max-age=${left + age}`,
    ...(groups === '' ? {} : { 'cache-groups': groups }),
  }
}
