/** The problems of cache rules. */
import { catalogue, wording } from '../shapes/catalogue.ts'

export const CACHE_PROBLEMS = catalogue({
  'cache-lifetime-missing': wording(
    (refresh: string) => ({
      message: `“refresh: ${refresh}” needs a lifetime.`,
      hint: 'Add e.g. “lifetime: 1h”.',
    }),
    'by-age',
  ),
  'cache-lifetime-invalid': wording(
    (key: string, text: string) => ({
      message: `“${key}: ${text}” is not allowed.`,
      hint: 'Use a time between 1s and 366d. To show every change at once, use “refresh: on-change”.',
    }),
    'lifetime',
    '0s',
  ),
  'cache-edge-lifetime-invalid': wording(
    (text: string) => ({
      message: `“lifetime: ${text}” is not allowed for the edge cache.`,
      hint: 'Use a time between 1s and 366d. To keep nothing there, remove “edge”.',
    }),
    '0s',
  ),
  'cache-age-unused': wording(
    (key: string) => ({
      message: `“${key}” has no effect: these copies are refreshed on change, whatever their age.`,
      hint: `Remove it, or use “refresh: both” or “refresh: by-age”.`,
    }),
    'lifetime',
  ),
  'cache-route-unknown': wording(
    (name: string, hint: string) => ({ message: `There is no route “${name}”.`, hint }),
    'psots',
    'Did you mean “posts”?',
  ),
  'cache-route-without-page': wording(
    (name: string) => ({
      message: `Route “${name}” has no template, so none of its answers is kept.`,
      hint: 'Remove the rule.',
    }),
    'add-comment',
  ),
  'cache-fragment-unknown': wording(
    (name: string, hint: string) => ({ message: `No template has a fragment “${name}”.`, hint }),
    'asside',
    'Did you mean “aside”?',
  ),
})
