/** What rules may ask about queries: how pages ask them, how many rows they take, and what was measured. */
import type { Asking, MeasuredQuery } from '../../core/checks/facts.ts'
import { SOURCE, TABLE } from '../../core/queries/sources.ts'
import type { Blog } from '../reader/blog.ts'
import { walkedRuns } from '../probes/walked-runs.ts'
import { compileTies } from '../store/statements/compile-places.ts'
import { boundValues } from '../store/statements/statement.ts'
import { advisedIndex, keptResults } from '../growth/kept.ts'

const runsOf = async (blog: Blog, target: string) =>
  (await walkedRuns(blog, target)).filter((one) => one.outcome === 'rows' || one.outcome === 'empty')

export async function askedAt(blog: Blog, path: string): Promise<Asking[]> {
  const { queries } = blog.site
  return (await runsOf(blog, path)).map(({ data, query, statements, rows, shown }) => {
    const meaning = queries.get(query)?.meaning
    const lists = (meaning?.relations ?? []).filter(
      (one) => meaning && SOURCE[meaning.from].relations[one]?.many,
    )
    return {
      data,
      query,
      statements: statements.length,
      rows,
      lists: lists.length,
      shown: shown.map((one) => one.label),
    }
  })
}

export async function rowsTaken(
  blog: Blog,
  query: string,
  path: string,
): Promise<{ rows: number; all: number }> {
  const run = (await runsOf(blog, path)).find((one) => one.query === query)
  const from = blog.site.queries.get(query)?.meaning.from ?? 'posts'
  const { rows } = await blog.pool.query<{ all: number }>(`SELECT count(*)::int AS all FROM ${TABLE[from]}`)
  return { rows: run?.rows ?? 0, all: rows[0]?.all ?? 0 }
}

export async function tieAtPageEnd(
  blog: Blog,
  query: string,
): Promise<{ first: string; second: string; page: number } | undefined> {
  const found = blog.site.queries.get(query)
  // What waits for an address has its rows there; the order is the same for all of them.
  if (found?.meaning.take.kind !== 'pages') return undefined
  const statement = compileTies(blog.database, found.meaning, found.meaning.take.size, blog.site.definition)
  const { rows } = await blog.pool.query<{ first: string; second: string; page: number }>(
    statement.sql,
    boundValues(statement, { parameters: {} }),
  )
  return rows[0]
}

export async function measuredQueries(blog: Blog): Promise<MeasuredQuery[]> {
  const newest = new Map<string, MeasuredQuery>()
  for (const { isCurrent, result } of await keptResults(blog)) {
    if (!isCurrent || newest.has(result.query)) continue
    const index = advisedIndex(result)
    newest.set(result.query, {
      query: result.query,
      size: Math.max(0, ...result.sizes),
      advised: result.advised && index ? { ...result.advised, index } : null,
    })
  }
  return [...newest.values()]
}
