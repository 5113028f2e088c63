/** What the blog would be like after a change: the change is made in a transaction, asked about, and taken back. */
import type { PoolClient } from 'pg'
import type { EntityManager } from 'typeorm'
import type { Queryable } from '../store/connection.ts'
import { Blog } from '../reader/blog.ts'

/**
 * Everything asked of the blog that `work` is given goes the way of readers' requests, on the one connection that sees
 * the change; nothing is kept, and nobody else ever sees it. Whoever writes to the same rows meanwhile waits.
 *
 * @param change errors of it are passed on, e.g. a slug that is taken
 */
export async function rehearse<T>(
  blog: Blog,
  change: (manager: EntityManager) => Promise<unknown>,
  work: (changed: Blog) => Promise<T>,
): Promise<T> {
  const runner = blog.database.createQueryRunner()
  try {
    const client = (await runner.connect()) as PoolClient
    await runner.startTransaction()
    await change(runner.manager)
    return await work(
      new Blog({
        database: blog.database,
        site: blog.site,
        log: blog.log,
        clock: blog.clock,
        fragments: 'off',
        pool: inTurn(client),
        cursorKey: blog.cursorKey,
      }),
    )
  } finally {
    if (runner.isTransactionActive) await runner.rollbackTransaction()
    await runner.release()
  }
}

/** One connection where a pool is expected: what is asked at once is asked one after the other. */
function inTurn(client: PoolClient): Queryable {
  let last: Promise<unknown> = Promise.resolve()
  const query = (...words: Parameters<PoolClient['query']>) => {
    const next = last.then(() => client.query(...words))
    last = next.then(
      () => undefined,
      () => undefined,
    )
    return next
  }
  return { query: query as Queryable['query'] }
}
