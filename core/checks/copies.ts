/** What the rules about copies share: names, places, and the fix that refreshes copies on change. */
import { withFragmentRule, withPageRule } from '../caching/edit-rules.ts'
import { CACHE_FILE } from '../caching/read-rules.ts'
import type { RefreshMode } from '../shapes/cache-rules.ts'
import type { CopyRule, Facts } from './facts.ts'
import type { Fix } from './finding.ts'
import { saveFix } from './rule.ts'

/** Returns e.g. `fragment “aside”`, or `pages of route “posts”`. */
export const namedRule = ({ kind, name }: CopyRule): string =>
  kind === 'page' ? `pages of route “${name}”` : `fragment “${name}”`

export const subjectOf = ({ kind, name }: CopyRule): string => `${kind} ${name}`

export const placeOfCopies = ({ document, line }: CopyRule) => ({ document, line })

/** Returns a fix that changes how the copies of a rule are refreshed. */
export function refreshFix(
  { documents }: Facts,
  { kind, name }: CopyRule,
  refresh: Exclude<RefreshMode, 'by-age'>,
  label: string,
  after: string,
): Fix[] {
  const text = documents.get(CACHE_FILE) ?? ''
  // A page without a rule is refreshed on change.
  const changed =
    kind === 'page' ? withPageRule(text, name, undefined) : withFragmentRule(text, name, refresh)
  return saveFix(CACHE_FILE, changed, label, after)
}
