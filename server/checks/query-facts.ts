/** Facts about queries: how pages run them, how many rows they return, and their measurements. */
import type { MeasuredQuery, PageQuery } from '../../core/checks/facts.ts'
import { LessThanOrEqual, type EntityManager } from 'typeorm'
import { SOURCE } from '../../core/queries/sources.ts'
import type { ClockPort, DatabasePort, PoolPort, SitePort } from '../publish/ports.ts'
import type { UncachedPort } from '../reader/ports.ts'
import { walkedRuns } from '../probes/walked-runs.ts'
import { compileTies } from '../store/statements/compile-places.ts'
import { runStatement } from '../store/statements/run-query.ts'
import { PostEntity } from '../store/entities/content.ts'
import { ENTITY_OF } from '../store/statements/query-builder.ts'
import { advisedIndex, storedResults } from '../growth/stored.ts'

type RunPorts = ClockPort & SitePort & UncachedPort

const runsOf = async (blog: RunPorts, target: string) =>
  (await walkedRuns(blog, target)).filter((one) => one.outcome === 'rows' || one.outcome === 'empty')

/** The publication dates of published posts, by the paths of their files. */
export type PublishedDates = ReadonlyMap<string, string>

/** @param now what is scheduled for later is not published */
export async function publishedDates(manager: EntityManager, now: Date): Promise<PublishedDates> {
  const posts = await manager.getRepository(PostEntity).find({
    select: { id: true, slug: true, publishedAt: true },
    where: { publishedAt: LessThanOrEqual(now) },
  })
  return new Map(
    posts.flatMap(({ slug, publishedAt }) =>
      publishedAt ? [[`content/posts/${slug}.md`, publishedAt.toISOString()] as const] : [],
    ),
  )
}

/** Returns the queries that a page runs without stored fragments. */
export async function queriesAt(
  blog: RunPorts,
  path: string,
  published: PublishedDates,
): Promise<PageQuery[]> {
  const { queries } = blog.site
  return (await runsOf(blog, path)).map((run) => {
    const { data, query, parameters, statements, rows, shown, total, isEstimated } = run
    const meaning = queries.get(query)?.meaning
    const lists = (meaning?.relations ?? []).filter(
      (one) => meaning && SOURCE[meaning.from].relations[one]?.many,
    )
    return {
      data,
      query,
      parameters: JSON.stringify(parameters),
      statements: statements.length,
      rows,
      lists: lists.length,
      total,
      isEstimated,
      shown: shown.map((one) => one.label),
      documents: shown.map((one) => one.document ?? null),
      dates: shown.map(({ document }) => published.get(document ?? '') ?? null),
    }
  })
}

export async function rowsTaken(
  blog: RunPorts,
  manager: EntityManager,
  query: string,
  path: string,
): Promise<{ rows: number; all: number }> {
  const run = (await runsOf(blog, path)).find((one) => one.query === query)
  const from = blog.site.queries.get(query)?.meaning.from ?? 'posts'
  return { rows: run?.rows ?? 0, all: await manager.getRepository(ENTITY_OF[from]).count() }
}

export async function tieAtPageEnd(
  blog: DatabasePort & PoolPort & SitePort,
  query: string,
): Promise<{ first: string; second: string; page: number } | undefined> {
  const found = blog.site.queries.get(query)
  // A query with parameters is not run without an address; its order is the same for all of them.
  if (found?.meaning.take.kind !== 'pages') return undefined
  const statement = compileTies(blog.database, found.meaning, found.meaning.take.size, blog.site.definition)
  const [tie] = await runStatement(blog.pool, query, statement, { parameters: {} }, [])
  return tie as { first: string; second: string; page: number } | undefined
}

export async function measuredQueries(blog: DatabasePort & SitePort): Promise<MeasuredQuery[]> {
  const latest = new Map<string, MeasuredQuery>()
  for (const { isCurrent, result } of await storedResults(blog)) {
    if (!isCurrent || latest.has(result.query)) continue
    const index = advisedIndex(result)
    latest.set(result.query, {
      query: result.query,
      size: Math.max(0, ...result.sizes),
      advised: result.advised && index ? { ...result.advised, index } : null,
    })
  }
  return [...latest.values()]
}
