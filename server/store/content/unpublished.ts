/** Drafts and scheduled posts, and the blog as it would be without them. */
import type { PoolClient } from 'pg'
import type { EntityManager } from 'typeorm'
import { inTurn, type Queryable } from '../connection.ts'

export interface UnpublishedPost {
  slug: string
  title: string
}

/** Returns the newest and the oldest drafts and scheduled posts, and the number of all. */
export async function unpublishedPosts(
  pool: Queryable,
  { newest, oldest }: { newest: number; oldest: number },
): Promise<{ posts: UnpublishedPost[]; total: number }> {
  const { rows } = await pool.query<UnpublishedPost & { total: number }>(
    `SELECT slug, title, total FROM (
       SELECT id, slug, title, count(*) OVER ()::int AS total,
         row_number() OVER (PARTITION BY published_at IS NULL ORDER BY id DESC) AS from_newest,
         row_number() OVER (PARTITION BY published_at IS NULL ORDER BY id) AS from_oldest
       FROM post WHERE published_at IS NULL OR published_at > now()) ranked
     WHERE from_newest <= $1 OR from_oldest <= $2 ORDER BY least(from_newest, from_oldest), id`,
    [newest, oldest],
  )
  return { posts: rows.map(({ slug, title }) => ({ slug, title })), total: rows[0]?.total ?? 0 }
}

/** Runs a part, so that a statement which fails in it does not make all later ones fail. */
export type InSavepoint = <R>(part: () => Promise<R>) => Promise<R>

/** Carries the result out of the transaction, which is always rolled back. */
class Seen<T> extends Error {
  constructor(readonly value: T) {
    super('rolled back')
  }
}

/**
 * Lets `look` query the blog as if its unpublished posts, with their comments and tags, did not exist: views hide them
 * from this connection. Nothing is written or locked.
 */
export async function withoutUnpublished<T>(
  manager: EntityManager,
  look: (pool: Queryable, inSavepoint: InSavepoint) => Promise<T>,
): Promise<T> {
  try {
    return await manager.transaction(async (inside) => {
      const [{ schema } = { schema: 'public' }] = await inside.query<{ schema: string }[]>(
        'SELECT quote_ident(current_schema()) AS schema',
      )
      await inside.query(
        `CREATE TEMP VIEW post AS SELECT * FROM ${schema}.post WHERE published_at <= now();
         CREATE TEMP VIEW comment AS SELECT own.* FROM ${schema}.comment own
           WHERE EXISTS (SELECT FROM pg_temp.post WHERE post.id = own.post_id);
         CREATE TEMP VIEW post_tag AS SELECT own.* FROM ${schema}.post_tag own
           WHERE EXISTS (SELECT FROM pg_temp.post WHERE post.id = own.post_id);
         SET LOCAL search_path = pg_temp, ${schema}`,
      )
      // A different search path also makes PostgreSQL plan prepared statements again.
      const client = (await inside.queryRunner?.connect()) as PoolClient
      const pool = inTurn(client)
      const inSavepoint: InSavepoint = async (part) => {
        await pool.query('SAVEPOINT part')
        try {
          return await part()
        } finally {
          await pool.query('ROLLBACK TO SAVEPOINT part')
        }
      }
      throw new Seen(await look(pool, inSavepoint))
    })
  } catch (error) {
    if (error instanceof Seen) return error.value as T
    throw error
  }
}
