/** Where a post appears: every address whose queries give it to a reader, and at which place. */
import { pageCount, withQuery } from '../../core/paging/numbered.ts'
import { parameterOf } from '../../core/queries/clauses.ts'
import { givenMeaning, type QueryMeaning } from '../../core/queries/meaning.ts'
import { buildPath } from '../../core/routing/addresses/build.ts'
import { matchRoute } from '../../core/routing/addresses/match.ts'
import type { CompiledRoute } from '../../core/routing/addresses/compiled-route.ts'
import { readAddress } from '../../core/routing/addresses/address.ts'
import { compilePosition } from '../store/statements/compile-places.ts'
import type { Blog } from '../reader/blog.ts'
import { pageAddress } from '../reader/paged.ts'
import { queryInForce, type SiteQuery } from '../publish/site.ts'
import { runStatement } from '../store/statements/run-query.ts'

export interface Appearance {
  route: string
  path: string
  /** Name of the data in the route's templates, and its query. */
  data: string
  query: string
  /** itself: the address is the post's own. */
  how: 'itself' | 'listed'
  /** Place on the page, 1-based, and of how many; 0 of 0 for itself. */
  place: number
  of: number
  /** Page of a listing; null where it has none. */
  page: number | null
}

export interface Appearances {
  found: Appearance[]
  /** Data that other rows decide, e.g. what else is in the category: shown on pages of other posts. */
  beside: { route: string; data: string; query: string }[]
}

/** What of a post can decide a parameter: field → its values. */
type Values = Readonly<Record<string, readonly (string | number)[]>>

/** @param slug of a post; one that readers may not see appears nowhere */
export async function appearancesOf(blog: Blog, slug: string): Promise<Appearances | undefined> {
  const { site } = blog
  const post = await valuesOf(blog, slug)
  if (!post) return undefined
  const result: Appearances = { found: [], beside: [] }
  for (const compiled of site.definition.routes) {
    if (compiled.method !== 'GET' || compiled.route.template === undefined) continue
    for (const [data, entry] of Object.entries(compiled.route.data ?? {})) {
      const name = typeof entry === 'string' ? entry : entry.query
      const query = site.queries.get(name)
      if (query?.meaning.from !== 'posts' || query.meaning.countBy.length > 0) continue
      if (typeof entry !== 'string' && Object.keys(entry.with ?? {}).length > 0) {
        result.beside.push({ route: compiled.route.name, data, query: name })
        continue
      }
      // Without a query string, what waits for one falls away; what needs one, a search say, has no address of its own.
      const meaning = givenMeaning(
        query.meaning,
        Object.fromEntries(compiled.pattern.names.map((one) => [one, one])),
      )
      const needed = query.meaning.parameters.filter((one) => !query.meaning.optional.includes(one))
      if (needed.some((one) => !compiled.pattern.names.includes(one))) continue
      for (const parameters of combinations(compiled, meaning, post.values)) {
        const found = await placeOf(
          blog,
          compiled,
          queryInForce(blog.database, site, query, parameters),
          parameters,
          post.id,
        )
        if (found) result.found.push({ route: compiled.route.name, data, query: name, ...found })
      }
    }
  }
  result.found.sort((a, b) => Number(a.how === 'listed') - Number(b.how === 'listed'))
  return result
}

async function valuesOf(blog: Blog, slug: string): Promise<{ id: number; values: Values } | undefined> {
  const { rows } = await blog.pool.query<
    Record<string, number | string | null> & { tags: string[]; categories: string[] }
  >(
    `SELECT post.id, post.slug, category.slug AS category, author.slug AS author,
       extract(year FROM post.published_at AT TIME ZONE $2)::int AS year,
       extract(month FROM post.published_at AT TIME ZONE $2)::int AS month,
       extract(day FROM post.published_at AT TIME ZONE $2)::int AS day,
       ARRAY(WITH RECURSIVE above AS (
           SELECT own.slug, own.parent_id FROM category own WHERE own.id = post.category_id
           UNION SELECT parent.slug, parent.parent_id FROM category parent JOIN above ON parent.id = above.parent_id
         ) SELECT above.slug FROM above) AS categories,
       ARRAY(SELECT tag.slug FROM post_tag link JOIN tag ON tag.id = link.tag_id WHERE link.post_id = post.id) AS tags
     FROM post LEFT JOIN category ON category.id = post.category_id LEFT JOIN author ON author.id = post.author_id
     WHERE post.slug = $1`,
    [slug, blog.site.definition.timeZone],
  )
  const [row] = rows
  if (!row) return undefined
  const one = (value: number | string | null | undefined) =>
    value === null || value === undefined ? [] : [value]
  return {
    id: Number(row['id']),
    values: {
      id: one(row['id']),
      slug: one(row['slug']),
      'category.slug': one(row['category']),
      'within category.slug': row.categories,
      'author.slug': one(row['author']),
      'tags.slug': row.tags,
      publishedYear: one(row['year']),
      publishedMonth: one(row['month']),
      publishedDay: one(row['day']),
    },
  }
}

/** Every choice of the route's parameters for which the query's conditions on them can hold for the post. */
function combinations(
  { pattern }: CompiledRoute,
  { conditions, parameters }: QueryMeaning,
  values: Values,
): Record<string, string | number>[] {
  // A query that reads none of the route's parameters shows the post at any of its addresses, or at none.
  if (pattern.names.length > 0 && !pattern.names.every((name) => parameters.includes(name))) return []
  let found: Record<string, string | number>[] = [{}]
  for (const name of pattern.names) {
    const condition = conditions.find(
      (one) => (one.is === 'equal' || one.is === 'within') && parameterOf(one.to) === name,
    )
    const choices = condition
      ? (values[condition.is === 'within' ? `within ${condition.field}` : condition.field] ?? [])
      : []
    found = found.flatMap((known) => choices.map((value) => ({ ...known, [name]: value })))
  }
  return found
}

async function placeOf(
  blog: Blog,
  compiled: CompiledRoute,
  query: SiteQuery,
  parameters: Record<string, string | number>,
  post: number,
): Promise<Omit<Appearance, 'route' | 'data' | 'query'> | undefined> {
  const { site, database, pool } = blog
  const built = buildPath(compiled, parameters, site.definition.policy)
  if (!built.ok || !isAnsweredBy(blog, compiled, built.path)) return undefined
  const { meaning } = query
  const statement = compilePosition(database, meaning, site.definition)
  const rows = await runStatement(pool, 'place', statement, { parameters: { ...parameters, row: post } }, [])
  const position = rows[0]?.['position']
  if (typeof position !== 'number') return undefined
  const { take } = meaning
  const path = built.path
  switch (take.kind) {
    case 'one':
      return position === 1 ? { path, how: 'itself', place: 0, of: 0, page: null } : undefined
    case 'first':
      return position <= take.count
        ? { path, how: 'listed', place: position, of: take.count, page: null }
        : undefined
    case 'all':
      return { path, how: 'listed', place: position, of: 0, page: null }
    case 'pages': {
      const page = pageCount(position, take.size)
      const text = await pageAddress({ blog, query, as: 'reader', parameters }, page)
      const at = withQuery(path, '', { [take.parameter]: text })
      return { path: at, how: 'listed', place: position - (page - 1) * take.size, of: take.size, page }
    }
  }
}

/** False when an earlier route takes the address. */
function isAnsweredBy(blog: Blog, { route }: CompiledRoute, path: string): boolean {
  const { table, policy } = blog.site.definition
  const address = readAddress(path, policy)
  const match = address.ok ? matchRoute(table, 'GET', address.path) : undefined
  return match?.outcome === 'matched' && match.route.route.name === route.name
}
