/** The queries of an address, asked once more with nothing kept: for those who look at the queries, not at the page. */
import { randomUUID } from 'node:crypto'
import { answer, type BlogRequest } from '../reader/answer.ts'
import { Blog } from '../reader/blog.ts'
import { Walk } from '../reader/walk/walk.ts'
import type { WalkQuery, WalkRecord } from '../../contract/walk-record.ts'

/** The headers of a walked request: those that decide what comes back. */
export const headersOf = (gets: WalkRecord['gets']) => (name: string) =>
  gets === 'data' && name === 'accept' ? 'application/json' : undefined

/** What a page asks, with every part of it made anew: in order, with what was not asked. */
export async function walkedRuns(
  blog: Blog,
  target: string,
  as: 'reader' | 'author' = 'reader',
  gets: WalkRecord['gets'] = 'page',
): Promise<readonly WalkQuery[]> {
  const { database, site, log, clock, pool, cursorKey } = blog
  const fresh = new Blog({ database, site, log, clock, pool, cursorKey, fragments: 'off' })
  const request: BlogRequest = {
    id: randomUUID(),
    method: 'GET',
    target,
    as,
    header: headersOf(gets),
    form: () => Promise.resolve({ ok: false, status: 415, reason: '' }),
  }
  const walk = new Walk({ ...request, gets }, clock(), site.version)
  await answer(fresh, request, walk)
  return walk.record.queries.runs
}
