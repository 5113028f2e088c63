/** The values of a post by which routes and listings find it. */
import type { Queryable } from '../connection.ts'

export interface PostValues {
  id: number
  slug: string
  category: string | null
  author: string | null
  year: number | null
  month: number | null
  day: number | null
  /** The slugs of its category and of the categories above it. */
  categories: string[]
  tags: string[]
}

/** @param timeZone decides the day of its publication */
export async function postValues(
  pool: Queryable,
  slug: string,
  timeZone: string,
): Promise<PostValues | undefined> {
  const { rows } = await pool.query<PostValues>(
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
    [slug, timeZone],
  )
  return rows[0]
}
