/** Addresses worth walking first. */
import type { CompiledRoute } from '../../../core/routing/addresses/compiled-route.ts'
import { queriesOf } from '../../../core/shapes/route-data.ts'
import type { Blog } from '../../reader/blog.ts'
import { addressesOf } from '../../reader/addresses/real-addresses.ts'
import type { Suggestion } from '../../../contract/operations.ts'

/** The first route without parameters whose listing has pages. */
function pagedRoute({ site: { definition, queries } }: Blog): { paged?: CompiledRoute; parameter: string } {
  for (const compiled of definition.routes) {
    if (compiled.pattern.names.length > 0) continue
    for (const name of queriesOf(compiled.route)) {
      const take = queries.get(name)?.meaning.take
      if (take?.kind === 'pages' && take.by === 'number')
        return { paged: compiled, parameter: take.parameter }
    }
  }
  return { parameter: 'page' }
}

/** What the workbench walks when it is opened without an address: a page in the middle of a listing shows most. */
export function firstAddress(blog: Blog): string {
  const { paged, parameter } = pagedRoute(blog)
  const built = paged && blog.addressOf(blog.site, paged.route.name, {})
  return built?.ok ? `${built.path}?${parameter}=2` : '/'
}

/** What a newcomer may try first; each only where this blog has such an address. */
export async function suggestions(blog: Blog): Promise<Suggestion[]> {
  const found: Suggestion[] = []
  const { definition } = blog.site
  const { paged, parameter } = pagedRoute(blog)
  const built = paged && blog.addressOf(blog.site, paged.route.name, {})
  const listing = built?.ok ? built.path : undefined
  if (listing !== undefined) {
    const partial = [...definition.templates.mentions()].find(
      ([name, { fragments }]) => name.startsWith('partials/') && fragments.some((one) => one.varies),
    )?.[0]
    if (partial !== undefined)
      found.push({
        label: 'change what a card shows',
        path: listing,
        document: `templates/${partial}.liquid`,
      })
  }
  for (const compiled of definition.routes) {
    if (compiled.method !== 'GET' || compiled.route.redirect) continue
    const [draft] =
      (await addressesOf(blog, blog.site, compiled, { size: 1, hidden: 'drafts' }))?.addresses ?? []
    if (!draft) continue
    found.push({ label: 'a draft’s address', path: draft.path, document: null })
    break
  }
  if (listing !== undefined)
    found.push({ label: 'page 999', path: `${listing}?${parameter}=999`, document: null })
  return found
}
