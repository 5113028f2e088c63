/** The words by which posts are found, kept in the blog's language: made anew when the settings name another. */
import type { DataSource, EntityManager } from 'typeorm'
import { searchConfiguration } from '../../../core/queries/search-language.ts'
import type { Blog } from '../../reader/blog.ts'

const BATCH = 200

/** Notes the language for rows that are written from now on. @returns whether it is another one */
export async function setSearchLanguage(
  database: DataSource | EntityManager,
  language: string | undefined,
): Promise<boolean> {
  const rows = await database.query<unknown[]>(
    `INSERT INTO setting (name, value) VALUES ('search-language', to_jsonb($1::text))
     ON CONFLICT (name) DO UPDATE SET value = EXCLUDED.value WHERE setting.value <> EXCLUDED.value RETURNING name`,
    [searchConfiguration(language)],
  )
  return rows.length > 0
}

/** Makes the words of all posts anew if the settings' language is not the one they were made in. */
export async function renewSearchWords(blog: Blog, signal?: AbortSignal): Promise<number> {
  const { database } = blog
  if (!(await setSearchLanguage(database, blog.site.definition.settings.language))) return 0
  let renewed = 0
  for (let last = 0; !signal?.aborted;) {
    // The trigger fills in what is set to nothing.
    const [rows] = await database.query<[{ id: number }[], number]>(
      `UPDATE post SET search = NULL WHERE id IN (SELECT id FROM post WHERE id > $1 ORDER BY id LIMIT ${BATCH}) RETURNING id`,
      [last],
    )
    if (rows.length === 0) break
    renewed += rows.length
    last = Math.max(...rows.map((one) => one.id))
  }
  return renewed
}
