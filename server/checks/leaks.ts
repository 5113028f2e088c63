/** Finds pages that show something of unpublished posts, by requesting them with these posts and without them. */
import { setImmediate } from 'node:timers/promises'
import type { EntityManager } from 'typeorm'
import type { KnownAddress, Leak, LeakingQuery, Leaks } from '../../core/checks/facts.ts'
import { groupBy } from '../../core/checks/group-by.ts'
import { sampleOf, type SampleSize } from '../../core/checks/sample.ts'
import type { CompiledRoute } from '../../core/routing/addresses/compiled-route.ts'
import type { PoolPort } from '../publish/ports.ts'
import type { Site } from '../publish/site.ts'
import { answer, type AnswerPorts } from '../reader/answer.ts'
import type { UncachedPort } from '../reader/ports.ts'
import { internalRequest } from '../reader/request.ts'
import { NO_TRACER, type QueryRun, type Tracer } from '../reader/tracer.ts'
import { postValues } from '../store/content/post-values.ts'
import { unpublishedPosts, withoutUnpublished } from '../store/content/unpublished.ts'
import type { Row } from '../store/statements/run-query.ts'
import { provokingAddresses } from './provoking.ts'

/** The unpublished posts that are looked for, of each state. */
const LOOKED_FOR = { newest: 1, oldest: 1 }
/** The maximum number of addresses. */
const MOST = 600
/** The other addresses of each route. */
const OF_ROUTE: SampleSize = { oldest: 1, newest: 1, between: 1 }
/** After how many requests readers get a turn. */
const TURN = 4

interface Asked {
  path: string
  accepts: 'html' | 'json'
}

export interface LeakSearch {
  blog: PoolPort & UncachedPort
  manager: EntityManager
  site: Site
  routes: readonly CompiledRoute[]
  known: readonly KnownAddress[]
  /** The addresses that the unpublished posts will have. */
  hidden: readonly KnownAddress[]
  signal: AbortSignal
}

export async function findLeaks(search: LeakSearch): Promise<Leaks> {
  const { blog, manager, signal } = search
  const { posts, total } = await unpublishedPosts(blog.pool, LOOKED_FOR)
  if (posts.length === 0) return { posts: 0, allPosts: 0, addresses: 0, found: [] }
  const asked = await addressesFor(search, posts)
  const known = new Set(asked.map((one) => one.path))
  // Times on pages are the same in both answers.
  const now = new Date()
  const here = blog.withoutFragments({ clock: () => now })
  // Each own address is requested. Most are not found, which needs no comparison.
  for (const { path } of search.hidden) {
    signal.throwIfAborted()
    if (known.has(path)) continue
    known.add(path)
    await setImmediate()
    const { status } = await answer(here, requestOf({ path, accepts: 'html' }))
    if (status === 200) asked.push({ path, accepts: 'html' })
  }
  const found = await withoutUnpublished(manager, async (pool, apart) => {
    const without = blog.withoutFragments({ pool, clock: () => now })
    const leaks: Leak[] = []
    const compare = async (one: Asked): Promise<Leak | undefined> => {
      const request = requestOf(one)
      const [real, other] = await Promise.all([answer(here, request), apart(() => answer(without, request))])
      // A page that fails shows nothing, and another check finds it.
      if (real.status >= 500 || other.status >= 500) return undefined
      if (real.status === other.status && real.body === other.body) return undefined
      // Without a query that returns something else, the content has changed in between.
      const queries = await apart(() => differingQueries(here, without, one))
      if (queries.length === 0) return undefined
      return { ...one, status: real.status, statusWithout: other.status, queries }
    }
    for (const [at, one] of asked.entries()) {
      signal.throwIfAborted()
      if (at % TURN === 0) await setImmediate()
      const leak = await compare(one)
      if (!leak) continue
      // What readers see is the better witness than what programs get.
      const page = one.accepts === 'json' ? await compare({ ...one, accepts: 'html' }) : undefined
      leaks.push(page ?? leak)
    }
    return leaks
  })
  return { posts: posts.length, allPosts: total, addresses: known.size, found }
}

const requestOf = ({ path, accepts }: Asked) => internalRequest(path, { accepts, sparing: true })

/** Returns addresses that fit the posts, and a sample of all others. */
async function addressesFor(
  { blog, site, routes, known }: LeakSearch,
  posts: readonly { slug: string; title: string }[],
): Promise<Asked[]> {
  const paths = new Map<string, CompiledRoute[]>()
  const add = (path: string, route: CompiledRoute) => {
    paths.set(path, [...(paths.get(path) ?? []), route])
  }
  for (const { slug, title } of posts) {
    const values = await postValues(blog.pool, slug, site.definition.timeZone)
    if (!values) continue
    for (const route of routes)
      for (const path of provokingAddresses(site.definition, route, { ...values, title })) add(path, route)
  }
  const byName = new Map(routes.map((one) => [one.route.name, one]))
  for (const [route, addresses] of groupBy(known, (one) => one.route)) {
    const compiled = byName.get(route)
    for (const { path } of compiled ? sampleOf(addresses, OF_ROUTE) : []) if (compiled) add(path, compiled)
  }
  return [...paths]
    .map(([path, of]): Asked => ({
      path,
      // As JSON, an address shows everything that its queries return, and the page shows some of it.
      accepts: of.every((one) => one.route.json === true) ? 'json' : 'html',
    }))
    .slice(0, MOST)
}

/** Records the rows of each query of a page. */
class RowTracer {
  readonly runs: QueryRun[] = []
  readonly tracer: Tracer = { ...NO_TRACER, queryRan: (run) => void this.runs.push(run) }
}

async function differingQueries(
  here: AnswerPorts,
  without: AnswerPorts,
  asked: Asked,
): Promise<LeakingQuery[]> {
  const [real, other] = [new RowTracer(), new RowTracer()]
  await answer(here, requestOf(asked), real.tracer)
  await answer(without, requestOf(asked), other.tracer)
  return real.runs.flatMap((run) => {
    const difference = differenceOf(
      run,
      other.runs.find((one) => one.name === run.name),
    )
    return difference === undefined ? [] : [{ query: run.query.name, difference }]
  })
}

const labelOf = (row: Row): string =>
  String(row['title'] ?? row['name'] ?? row['value'] ?? `row ${String(row['id'] ?? '')}`)
const textOf = (value: unknown) => JSON.stringify(value)

/** Returns what the real rows have in addition, as a part of a sentence; undefined if they are the same. */
function differenceOf({ query, result }: QueryRun, other: QueryRun | undefined): string | undefined {
  const rows = other?.result.rows ?? []
  const isCounted = query.meaning.countBy.length > 0
  const same = (one: Row, two: Row) =>
    isCounted
      ? query.meaning.countBy.every((key) => textOf(one[key]) === textOf(two[key]))
      : one['id'] === two['id']
  const added = result.rows.find((row) => !rows.some((one) => same(row, one)))
  if (added && !isCounted) return `shows “${labelOf(added)}”, which is not published.`
  for (const row of result.rows) {
    const twin = rows.find((one) => same(row, one))
    for (const [field, value] of Object.entries(row)) {
      if (twin && textOf(value) === textOf(twin[field])) continue
      const before = twin ? textOf(twin[field]) : 'nothing'
      return `has ${field} ${textOf(value)} in “${labelOf(row)}”, and ${before} without unpublished posts.`
    }
  }
  if (other && result.total !== other.result.total)
    return `counts ${result.total ?? 0} rows, and ${other.result.total ?? 0} without unpublished posts.`
  return result.rows.length === rows.length ? undefined : 'has fewer rows than without unpublished posts.'
}
