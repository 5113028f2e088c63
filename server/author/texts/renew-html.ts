/** HTML that another pipeline made is made anew: after an update, or when the definition narrows what HTML may stand. */
import { pipelineOf, renderMarkdown } from '../../../core/content/html/markdown.ts'
import type { Blog } from '../../reader/blog.ts'
import { shownText } from '../../../core/content/text.ts'
import { loadImageSizes } from './image-sizes.ts'
import { renewSearchWords } from './search-words.ts'

const BATCH = 50

interface OldRow {
  id: number
  body: string
  html: string
  written_excerpt: string | null
}

export interface RenewOptions {
  signal?: AbortSignal
  /** The name of an image whose size is new: what shows it is made anew, whatever made it. */
  showing?: string
}

/**
 * A few rows at a time, so that readers are served meanwhile; they see the stored HTML until it is replaced.
 * @returns how many rows were made anew. A row that an author saves meanwhile is left alone: the save made it anew.
 */
export async function renewHtml(blog: Blog, { signal, showing }: RenewOptions = {}): Promise<number> {
  const { database } = blog
  const sizeOf = await loadImageSizes(database)
  let renewed = 0
  for (const table of ['post', 'page'] as const) {
    const excerpt = table === 'post' ? 'written_excerpt' : 'NULL AS written_excerpt'
    for (let last = 0; ;) {
      if (signal?.aborted) return renewed
      // Asked for each batch: the definition may change again while this goes on.
      const rules = blog.site.definition.htmlRules
      const pipeline = pipelineOf(rules)
      const rows = await database.query<OldRow[]>(
        `SELECT id, body, html, ${excerpt} FROM ${table}
         WHERE id > $2 AND ($3::text IS NULL AND pipeline <> $1 OR strpos(body, $3) > 0) ORDER BY id LIMIT ${BATCH}`,
        [pipeline, last, showing === undefined ? null : `/media/${showing}`],
      )
      if (rows.length === 0) break
      for (const row of rows) {
        const html = renderMarkdown(row.body, { rules, sizeOf }).html
        const shown = shownText(html, row.written_excerpt)
        const extra = table === 'post' ? ', excerpt = $5, word_count = $6' : ''
        await database.query(
          `UPDATE ${table} SET html = $1, pipeline = $2${extra} WHERE id = $3 AND body = $4`,
          [html, pipeline, row.id, row.body, ...(table === 'post' ? [shown.excerpt, shown.wordCount] : [])],
        )
        renewed++
        if (html !== row.html)
          blog.changed({
            source: table === 'post' ? 'posts' : 'pages',
            id: row.id,
            before: { html: row.html },
            after: { html },
          })
      }
      last = rows.at(-1)?.id ?? last
    }
  }
  return renewed
}

/** Makes HTML and the words of the search anew now, and whenever the definition's rules for them change. @returns ends it */
export function keepTextsRenewed(blog: Blog): () => Promise<void> {
  const ending = new AbortController()
  let made: string | undefined
  let going: Promise<unknown> = Promise.resolve()
  const renew = () => {
    const { htmlRules, searchConfiguration } = blog.site.definition
    const wanted = `${searchConfiguration} ${pipelineOf(htmlRules)}`
    if (wanted === made) return
    made = wanted
    going = going.then(async () => {
      try {
        const count = await renewHtml(blog, { signal: ending.signal })
        if (count > 0) blog.log.info({ count }, 'HTML of posts and pages made anew')
        const words = await renewSearchWords(blog, ending.signal)
        if (words > 0) blog.log.info({ count: words }, 'words of the search made anew')
      } catch (error) {
        blog.log.error({ error: error instanceof Error ? error.stack : String(error) }, 'texts not made anew')
      }
    })
  }
  const unwatch = blog.watchChanges((what) => (what === 'definition' ? renew() : undefined))
  renew()
  return async () => {
    unwatch()
    ending.abort()
    await going
  }
}
