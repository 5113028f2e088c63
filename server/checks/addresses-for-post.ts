/** Addresses that would show a post if anything did: built from its own values, not from what queries compare. */
import { withQuery } from '../../core/paging/numbered.ts'
import { buildPath } from '../../core/routing/addresses/build.ts'
import type { CompiledRoute } from '../../core/routing/addresses/compiled-route.ts'
import type { ParameterType } from '../../core/shapes/schemas.ts'
import type { Definition } from '../../core/blog/definition.ts'
import type { PostValues } from '../store/content/post-values.ts'

export type ShownPost = PostValues & { title: string }

/** The number of addresses of each route for each post. */
const MOST = 8

/** Returns the values of a post that a parameter of a type can have. */
function valuesFor(type: ParameterType | undefined, post: ShownPost): (string | number)[] {
  const known = (...values: (string | number | null)[]) => values.filter((one) => one !== null)
  const slugs = known(post.slug, post.category, ...post.categories, ...post.tags, post.author)
  switch (type ?? 'text') {
    case 'slug':
    case 'path':
      return slugs
    case 'year':
      return known(post.year)
    case 'month':
      return known(post.month)
    case 'day':
      return known(post.day)
    case 'integer':
    case 'number':
      return known(post.id, post.year, post.month, post.day)
    case 'text': {
      const [longest = post.title] = post.title.split(/[^\p{L}\p{N}]+/u).sort((a, b) => b.length - a.length)
      return [longest, post.slug, post.title, ...slugs]
    }
    case 'uuid':
      return []
  }
}

/** Returns every choice of one value for each name, up to a limit. */
function choices(
  names: readonly string[],
  valuesOf: (name: string, at: number) => readonly (string | number)[],
): Record<string, string | number>[] {
  let found: Record<string, string | number>[] = [{}]
  for (const [at, name] of names.entries())
    found = found
      .flatMap((known) => [...new Set(valuesOf(name, at))].map((value) => ({ ...known, [name]: value })))
      .slice(0, MOST)
  return found
}

/** Returns addresses of a route that are built from a post’s values, with and without parameters of the query string. */
export function addressesForPost({ policy }: Definition, compiled: CompiledRoute, post: ShownPost): string[] {
  const { pattern, route } = compiled
  const paths = choices(pattern.names, (_, at) => valuesFor(pattern.types[at], post)).flatMap((values) => {
    const built = buildPath(compiled, values, policy)
    return built.ok ? [built.path] : []
  })
  const declared = Object.entries(route.query ?? {})
  // A condition on an absent parameter is left out, so each parameter is given alone, and all of them together.
  const alone = declared.flatMap(([name, type]) => choices([name], () => valuesFor(type, post)))
  const together = choices(Object.keys(route.query ?? {}), (name) =>
    valuesFor(route.query?.[name], post).slice(0, 1),
  )
  const queries = [{}, ...alone, ...(declared.length > 1 ? together : [])]
  return paths
    .flatMap((path) =>
      queries.map((query) =>
        withQuery(
          path,
          new URLSearchParams(),
          Object.fromEntries(Object.entries(query).map(([name, value]) => [name, String(value)])),
        ),
      ),
    )
    .slice(0, MOST)
}
