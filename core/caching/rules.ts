/** The cache rules in force: how copies of pages and fragments are refreshed, and what browsers and shared caches may do. */
import type { CacheRules, PageRule, RefreshMode } from '../shapes/cache-rules.ts'
import { readDuration } from '../shapes/duration.ts'

/** How long a page is kept that is refreshed on change, in milliseconds: a week. A safeguard; nothing relies on it. */
export const LONGEST_KEPT = 604_800_000
/** The longest lifetime that a rule can declare, in milliseconds. */
export const LONGEST_LIFETIME = 366 * 86_400_000

/** Times are in milliseconds. */
export interface RuleInForce {
  refresh: RefreshMode
  lifetime: number
  /** After the lifetime. */
  staleWhileRevalidate: number
  staleIfError: number
}

/** Returns how long the edge cache may store pages, in milliseconds; 0 if it is off. */
export const edgeLifetime = ({ edge }: CacheRules): number => duration(edge?.lifetime)

const duration = (text: string | undefined): number => (text === undefined ? 0 : (readDuration(text) ?? 0))

export const DEFAULT_PAGE_RULE: RuleInForce = {
  refresh: 'on-change',
  lifetime: LONGEST_KEPT,
  staleWhileRevalidate: 0,
  staleIfError: 0,
}

/** @param rules cache.yaml, with pages by the names of their routes */
export function pageRule({ pages = {} }: CacheRules, route: string): RuleInForce {
  const rule = Object.hasOwn(pages, route) ? pages[route] : undefined
  return rule ? ruleOf(rule) : DEFAULT_PAGE_RULE
}

function ruleOf(rule: PageRule): RuleInForce {
  const refresh = rule.refresh ?? 'on-change'
  if (refresh === 'on-change') return DEFAULT_PAGE_RULE
  return {
    refresh,
    lifetime: duration(rule.lifetime),
    staleWhileRevalidate: duration(rule['stale-while-revalidate']),
    staleIfError: duration(rule['stale-if-error']),
  }
}

/** A fragment declares a lifetime in its tag, so that it is refreshed by age, too, unless a rule says otherwise. */
export const fragmentRefresh = ({ fragments = {} }: CacheRules, name: string): RefreshMode =>
  (Object.hasOwn(fragments, name) ? fragments[name]?.refresh : undefined) ?? 'both'

/** How long after a change readers may see what was before, in milliseconds; 0 if a change is always seen at once. */
export const stalest = ({ refresh, lifetime, staleWhileRevalidate }: RuleInForce): number =>
  refresh === 'by-age' ? lifetime + staleWhileRevalidate : 0

/**
 * Returns the `Cache-Control` of a page without anything that differs between readers (RFC 9111 §5.2.2, RFC 5861). What is
 * refreshed on change is validated for each use: no cache elsewhere would hear about a change.
 */
export function cacheControl({ refresh, lifetime, staleWhileRevalidate, staleIfError }: RuleInForce): string {
  if (refresh !== 'by-age') return 'no-cache'
  const seconds = (milliseconds: number) => Math.floor(milliseconds / 1_000)
  return [
    'public',
    `max-age=${seconds(lifetime)}`,
    ...(staleWhileRevalidate > 0 ? [`stale-while-revalidate=${seconds(staleWhileRevalidate)}`] : []),
    ...(staleIfError > 0 ? [`stale-if-error=${seconds(staleIfError)}`] : []),
  ].join(', ')
}
