/** Finds the fragments among parsed templates. */
import type { Template } from 'liquidjs'
import { childrenOf } from './internals.ts'
import { FragmentTag } from './tags.ts'

/** Yields the fragment tags in templates, nested ones included. Partials are not followed. */
export function* fragmentTags(templates: readonly Template[]): Generator<FragmentTag> {
  for (const template of templates) {
    if (template instanceof FragmentTag) yield template
    yield* fragmentTags(childrenOf(template))
  }
}
