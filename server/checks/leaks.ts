/** Finds pages that show something of unpublished posts, by requesting them with these posts and without them. */
import { createHash } from 'node:crypto'
import type { EntityManager } from 'typeorm'
import type { KnownAddress, Leak, LeakingQuery, Leaks } from '../../core/checks/facts.ts'
import { shorten } from '../../core/content/text.ts'
import { groupBy } from '../../core/checks/group-by.ts'
import { sampleOf, type SampleSize } from '../../core/checks/sample.ts'
import type { CompiledRoute } from '../../core/routing/addresses/compiled-route.ts'
import type { ClockPort, PoolPort } from '../publish/ports.ts'
import type { Site, SiteQuery } from '../publish/site.ts'
import { answer, type AnswerPorts } from '../reader/answer.ts'
import type { UncachedPort } from '../reader/ports.ts'
import { internalRequest } from '../reader/request.ts'
import { NO_TRACER, type QueryRun, type Tracer } from '../reader/tracer.ts'
import { postValues } from '../store/content/post-values.ts'
import { unpublishedPosts, withoutUnpublished, type InSavepoint } from '../store/content/unpublished.ts'
import type { Row } from '../store/statements/run-query.ts'
import { addressesForPost } from './addresses-for-post.ts'

/** The unpublished posts that are looked for, of each state. */
const LOOKED_FOR = { newest: 3, oldest: 3 }
/** With more addresses that fit posts, fewer posts are looked for. */
const MOST = 600
/** The other addresses of each route. */
const OF_ROUTE: SampleSize = { oldest: 1, newest: 1, between: 1 }

interface Asked {
  path: string
  accepts: 'html' | 'json'
}

/** An address that no route answers: its page may show posts, too. */
const NOWHERE = '/no-such-address-as-this'

export interface LeakSearch {
  blog: PoolPort & ClockPort & UncachedPort
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
  // Times on pages are the same in both answers.
  const now = blog.clock()
  const real = new Answers(blog.withoutFragments({ clock: () => now }), signal)
  const { asked, tested } = await addressesFor(search, posts)
  const known = new Set(asked.map((one) => one.path))
  // Each own address is requested. Most are not found, which needs no comparison.
  for (const { path } of search.hidden) {
    if (known.has(path)) continue
    known.add(path)
    if ((await real.of({ path, accepts: 'html' })).status === 200) asked.push({ path, accepts: 'html' })
  }
  // The real answers come first: a rehearsed change is in the same connection as the views that hide posts.
  for (const one of asked) await real.of(one)
  const others = await withoutUnpublished(manager, async (pool, inSavepoint) => {
    const without = new Answers(blog.withoutFragments({ pool, clock: () => now }), signal, inSavepoint)
    const differing: Differing[] = []
    for (const one of asked) {
      if (!isDifferent(await real.of(one), await without.of(one))) continue
      // What readers see is the better witness than what programs get.
      for (const also of one.accepts === 'json' ? [{ ...one, accepts: 'html' as const }, one] : [one])
        differing.push({ asked: also, other: await without.of(also), runs: await without.runsOf(also) })
    }
    return differing
  })
  const found: Leak[] = []
  for (const { asked: one, other, runs } of others) {
    if (found.some(({ path }) => path === one.path)) continue
    const answered = await real.of(one)
    if (!isDifferent(answered, other)) continue
    // Without a query that returns something else, the content has changed in between.
    const queries = differingQueries(await real.runsOf(one), runs)
    if (queries.length > 0)
      found.push({ ...one, status: answered.status, statusWithout: other.status, queries })
  }
  return { posts: tested, allPosts: total, addresses: known.size, found }
}

interface Digest {
  status: number
  body: string
}

interface Differing {
  asked: Asked
  /** The answer without the unpublished posts, and the rows of its queries. */
  other: Digest
  runs: readonly QueryRun[]
}

/** A page that fails shows nothing, and another check finds it. */
const isDifferent = (one: Digest, other: Digest): boolean =>
  one.status < 500 && other.status < 500 && (one.status !== other.status || one.body !== other.body)

/** Answers addresses on one connection, and keeps a digest of each answer. */
class Answers {
  readonly #ports: AnswerPorts
  readonly #signal: AbortSignal
  readonly #inSavepoint: InSavepoint
  readonly #known = new Map<string, Digest>()

  constructor(ports: AnswerPorts, signal: AbortSignal, inSavepoint: InSavepoint = (part) => part()) {
    this.#ports = ports
    this.#signal = signal
    this.#inSavepoint = inSavepoint
  }

  async of(asked: Asked): Promise<Digest> {
    const key = `${asked.accepts} ${asked.path}`
    const known = this.#known.get(key)
    if (known) return known
    const { status, body } = await this.#answer(asked)
    const digest = { status, body: createHash('sha256').update(body).digest('base64') }
    this.#known.set(key, digest)
    return digest
  }

  /** Returns the runs of a page's queries, with their rows. */
  async runsOf(asked: Asked): Promise<QueryRun[]> {
    const runs: QueryRun[] = []
    await this.#answer(asked, { ...NO_TRACER, queryRan: (run) => void runs.push(run) })
    return runs
  }

  async #answer({ path, accepts }: Asked, tracer?: Tracer) {
    this.#signal.throwIfAborted()
    // A form has the request's id, which must be the same in both answers.
    const request = internalRequest(path, { id: 'compared', accepts, sparing: path !== NOWHERE })
    return await this.#inSavepoint(() => answer(this.#ports, request, tracer))
  }
}

/** Returns a sample of all addresses, and those that fit the posts, with the number of posts for which all are included. */
async function addressesFor(
  { blog, site, routes, known }: LeakSearch,
  posts: readonly { slug: string; title: string }[],
): Promise<{ asked: Asked[]; tested: number }> {
  const paths = new Map<string, CompiledRoute[]>()
  const add = (path: string, route: CompiledRoute) => {
    paths.set(path, [...(paths.get(path) ?? []), route])
  }
  const byName = new Map(routes.map((one) => [one.route.name, one]))
  for (const [route, addresses] of groupBy(known, (one) => one.route)) {
    const compiled = byName.get(route)
    for (const { path } of compiled ? sampleOf(addresses, OF_ROUTE) : []) if (compiled) add(path, compiled)
  }
  const most = paths.size + MOST
  let tested = 0
  for (const { slug, title } of posts) {
    if (paths.size >= most) break
    const values = await postValues(blog.pool, slug, site.definition.timeZone)
    if (!values) continue
    for (const route of routes)
      for (const path of addressesForPost(site.definition, route, { ...values, title })) add(path, route)
    tested++
  }
  const asked = [...paths].map(([path, of]): Asked => ({
    path,
    // As JSON, an address shows everything that its queries return, and the page shows some of it.
    accepts: of.every((one) => one.route.json === true) ? 'json' : 'html',
  }))
  return { asked: [...asked, { path: NOWHERE, accepts: 'html' }], tested }
}

function differingQueries(runs: readonly QueryRun[], others: readonly QueryRun[]): LeakingQuery[] {
  return runs.flatMap((run) => {
    const difference = differenceOf(
      run,
      others.find((one) => one.name === run.name),
    )
    return difference === undefined ? [] : [{ query: run.query.name, difference }]
  })
}

const labelOf = (row: Row): string =>
  String(row['title'] ?? row['name'] ?? row['value'] ?? `row ${String(row['id'] ?? '')}`)
const textOf = (value: unknown) => JSON.stringify(value)
/** How much of a value a finding quotes, in characters. */
const QUOTED = 60

/** Returns what the real rows have in addition, as a part of a sentence; undefined if they are the same. */
function differenceOf({ query, result }: QueryRun, other: QueryRun | undefined): string | undefined {
  const rows = other?.result.rows ?? []
  const isCounted = query.meaning.countBy.length > 0
  const same = (one: Row, two: Row) =>
    isCounted
      ? query.meaning.countBy.every((key) => textOf(one[key]) === textOf(two[key]))
      : one['id'] === two['id']
  const added = result.rows.find((row) => !rows.some((one) => same(row, one)))
  if (added && !isCounted) return shownBy(query, added)
  for (const row of result.rows) {
    const twin = rows.find((one) => same(row, one))
    for (const [field, value] of Object.entries(row)) {
      if (twin && textOf(value) === textOf(twin[field])) continue
      const quoted = (one: unknown) => shorten(textOf(one) ?? 'nothing', QUOTED)
      return `has ${field} ${quoted(value)} in “${labelOf(row)}”, and ${quoted(twin?.[field])} without unpublished posts.`
    }
  }
  if (other && result.total !== other.result.total)
    return `counts ${result.total ?? 0} rows, and ${other.result.total ?? 0} without unpublished posts.`
  return result.rows.length === rows.length ? undefined : 'has fewer rows than without unpublished posts.'
}

function shownBy({ meaning: { from } }: SiteQuery, row: Row): string {
  if (from === 'posts') return `shows “${labelOf(row)}”, which is not published.`
  if (from === 'comments') return `shows the comment by “${labelOf(row)}” on an unpublished post.`
  return `shows “${labelOf(row)}” only because of unpublished posts.`
}
