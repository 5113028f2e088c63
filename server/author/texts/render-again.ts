/** Renders stored texts again: after an update of the pipeline, or when the definition changes what HTML is allowed. */
import { renderText, type RenderedText } from '../../jobs/texts.ts'
import { pipelineOf } from '../../../core/content/html/markdown.ts'
import { success } from '../../../core/shapes/outcome.ts'
import type { ChangePort, DatabasePort, LogPort, SitePort, StorePort } from '../../publish/ports.ts'
import { outdatedTexts, type OutdatedText } from '../../store/content/texts.ts'
import { PageEntity, PostEntity } from '../../store/entities/content.ts'
import { loadImageSizes } from './image-sizes.ts'
import { reindexSearch } from './search-words.ts'

/** How many texts are rendered between two chances for readers' requests. */
const BATCH = 50

export type RenderPorts = DatabasePort & SitePort & StorePort

export interface RenderOptions {
  signal?: AbortSignal
  /** The name of an image whose size has changed: only texts that show it are rendered again. */
  showing?: string
}

/**
 * Renders outdated texts in batches. Readers get the stored HTML until it is replaced. A text that an author saves in the
 * meantime is skipped, since the save has rendered it.
 * @returns how many texts were rendered
 */
export async function renderAgain(
  ports: RenderPorts,
  { signal, showing }: RenderOptions = {},
): Promise<number> {
  const { database } = ports
  const sizeOf = await loadImageSizes(database)
  let count = 0
  for (const table of ['post', 'page'] as const) {
    for (let last = 0; ;) {
      if (signal?.aborted) return count
      // Read for every batch, because the definition may change in the meantime.
      const rules = ports.site.definition.htmlRules
      const pipeline = pipelineOf(rules)
      const texts = await outdatedTexts(database, { table, pipeline, showing }, last, BATCH)
      if (texts.length === 0) break
      for (const text of texts) {
        const rendered = await renderText(text.body, rules, sizeOf)
        await storeRendered(ports, table, text, rendered, pipeline)
        count++
      }
      last = texts.at(-1)?.id ?? last
    }
  }
  return count
}

/** Stores rendered HTML, unless the text was changed in the meantime. */
const storeRendered = (
  { store }: StorePort,
  table: 'post' | 'page',
  { id, body, writtenExcerpt }: OutdatedText,
  { html, excerpt, wordCount }: RenderedText,
  pipeline: string,
) =>
  store.write(async (unit) => {
    const columns =
      table === 'post'
        ? { html, pipeline, wordCount, excerpt: writtenExcerpt ?? excerpt }
        : { html, pipeline }
    await unit.manager.update(table === 'post' ? PostEntity : PageEntity, { id, body }, columns)
    return success(null)
  })

/**
 * Renders texts again and indexes posts for search again: now, and whenever the definition changes the rules for them.
 * @returns a function that stops it
 */
export function keepTextsRendered(ports: RenderPorts & LogPort & ChangePort): () => Promise<void> {
  const ending = new AbortController()
  let current: string | undefined
  let running: Promise<unknown> = Promise.resolve()
  const renew = () => {
    const { htmlRules, searchConfiguration } = ports.site.definition
    const wanted = `${searchConfiguration} ${pipelineOf(htmlRules)}`
    if (wanted === current) return
    current = wanted
    running = running.then(async () => {
      try {
        const texts = await renderAgain(ports, { signal: ending.signal })
        if (texts > 0) ports.log.info({ count: texts }, 'texts rendered again')
        const posts = await reindexSearch(ports, ending.signal)
        if (posts > 0) ports.log.info({ count: posts }, 'posts indexed for search again')
      } catch (error) {
        const message = error instanceof Error ? error.stack : String(error)
        ports.log.error({ error: message }, 'texts could not be rendered again')
      }
    })
  }
  const unwatch = ports.watchChanges((what) => (what === 'definition' ? renew() : undefined))
  renew()
  return async () => {
    unwatch()
    ending.abort()
    await running
  }
}
