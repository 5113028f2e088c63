/** Addresses at which a post would be seen, if anything showed it: made from its own values, not from what queries compare. */
import { withQuery } from '../../core/paging/numbered.ts'
import { buildPath } from '../../core/routing/addresses/build.ts'
import type { CompiledRoute } from '../../core/routing/addresses/compiled-route.ts'
import type { ParameterType } from '../../core/shapes/schemas.ts'
import type { Definition } from '../../core/blog/definition.ts'
import type { PostValues } from '../store/content/post-values.ts'

export type ProvokingValues = PostValues & { title: string }

/** The number of addresses of each route for each post. */
const MOST = 8

/** Returns the values of a post that a parameter of a type can have. */
function valuesFor(type: ParameterType | undefined, post: ProvokingValues): (string | number)[] {
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

/** Returns addresses of a route that are made from a post’s values, with and without each parameter of the query string. */
export function provokingAddresses(
  { policy }: Definition,
  { route, pattern, ...compiled }: CompiledRoute,
  post: ProvokingValues,
): string[] {
  const paths = choices(pattern.names, (_, at) => valuesFor(pattern.types[at], post)).flatMap((values) => {
    const built = buildPath({ route, pattern, ...compiled }, values, policy)
    return built.ok ? [built.path] : []
  })
  const declared = Object.entries(route.query ?? {})
  const searches = declared.flatMap(([name, type]) =>
    choices([name], () => valuesFor(type, post)).map((one) => one),
  )
  // Conditions on absent parameters are left out, so each parameter is given alone, and the first values together.
  const together = Object.fromEntries(
    declared.flatMap(([name, type]) =>
      valuesFor(type, post)
        .slice(0, 1)
        .map((value) => [name, value]),
    ),
  )
  const all = [...searches, ...(declared.length > 1 ? [together] : [])]
  return paths
    .flatMap((path) => [
      path,
      ...all.map((given) =>
        withQuery(
          path,
          new URLSearchParams(),
          Object.fromEntries(Object.entries(given).map(([name, value]) => [name, String(value)])),
        ),
      ),
    ])
    .slice(0, MOST)
}
