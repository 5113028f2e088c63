/** The address of a row by its slug, and the route that answers it instead. */
import { buildPath } from '../../../core/routing/addresses/build.ts'
import type { CompiledRoute } from '../../../core/routing/addresses/compiled-route.ts'
import type { SitePort } from '../../publish/ports.ts'
import { bindingOf, passesOn } from './real-addresses.ts'
import { slugKindOf } from '../../store/content/slugs.ts'
import type { SlugKind } from '../../../core/shapes/content-kinds.ts'

/** Returns the address of a row by the first route that shows such rows. */
export function addressFor(
  blog: SitePort,
  kind: SlugKind,
  slug: string,
): { path: string; route: CompiledRoute } | undefined {
  const { site } = blog
  for (const compiled of site.definition.routes) {
    // Feeds and images of a row are not where readers find it.
    if (compiled.method !== 'GET' || compiled.route.template === undefined) continue
    const [parameter, ...more] = compiled.pattern.names
    const binding = bindingOf(site, compiled)
    if (!binding || parameter === undefined || more.length > 0) continue
    if (slugKindOf(binding.source, binding.fields[parameter] ?? '') !== kind) continue
    const built = buildPath(compiled, { [parameter]: slug }, site.definition.policy)
    if (built.ok) return { path: built.path, route: compiled }
  }
  return undefined
}

/** Returns the earlier route that answers a slug's address instead of the route that shows the row. */
export function hiding(
  blog: SitePort,
  kind: SlugKind,
  slug: string,
): { address: string; route: string } | undefined {
  const own = addressFor(blog, kind, slug)
  if (!own) return undefined
  const earlier = takenBefore(blog, own.route, own.path.replace(/(.)\/$/, '$1'))
  return earlier && { address: own.path, route: earlier.route.name }
}

/** Returns the earlier route that answers an address without passing it on. */
export const takenBefore = (
  { site }: SitePort,
  route: CompiledRoute,
  bare: string,
): CompiledRoute | undefined =>
  site.definition.routes
    .slice(0, site.definition.routes.indexOf(route))
    .find((one) => one.method === route.method && one.pattern.regexp.test(bare) && !passesOn(site, one))
