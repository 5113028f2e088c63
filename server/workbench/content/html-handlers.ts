/** Handlers of the operations on the allow-list of HTML. */
import type { htmlOperations } from '../../../contract/html.ts'
import { setHtmlRule } from '../../../core/blog/edit.ts'
import {
  ALLOWED_SCHEMES,
  droppedBy,
  sanitizeHtml,
  type HtmlRules,
} from '../../../core/content/html/allow-list.ts'
import { markdownForPages } from '../../../core/content/html/markdown.ts'
import { countWords, plainText } from '../../../core/content/text.ts'
import { ALLOWED_ELEMENTS } from '../../../core/shapes/html-elements.ts'
import { refused, success } from '../../../core/shapes/outcome.ts'
import { saveDocuments } from '../../author/documents/documents.ts'
import { pagePolicy } from '../../reader/responses.ts'
import { loadImageSizes } from '../../author/texts/image-sizes.ts'
import { write } from '../../author/writing.ts'
import type { ClockPort, DatabasePort, PublishPort, SitePort, StorePort } from '../../publish/ports.ts'
import { assetAddress } from '../../publish/site.ts'
import { elementUses } from '../../store/content/texts.ts'
import { DocumentEntity } from '../../store/entities/definition.ts'
import { mapWritten, type HandlersOf } from '../http/handlers-of.ts'
import { WORKBENCH_PROBLEMS } from '../problems.ts'

/** In how many of the latest texts of each kind elements are counted. */
const LATEST = 5_000
const FILE = 'blog.yaml'

export const htmlHandlers = (
  blog: DatabasePort & SitePort & StorePort & ClockPort & PublishPort,
): HandlersOf<typeof htmlOperations> => ({
  'GET /api/html': async () => {
    const { htmlRules } = blog.site.definition
    const [settings, uses] = await Promise.all([
      blog.database.getRepository(DocumentEntity).findOneBy({ path: FILE }),
      elementUses(blog.database, LATEST),
    ])
    return success({
      elements: ALLOWED_ELEMENTS.map((one) => ({
        ...one,
        attributes: [...one.attributes],
        texts: uses.get(one.name) ?? 0,
      })),
      schemes: [...ALLOWED_SCHEMES],
      latest: LATEST,
      rule: { typed: htmlRules.typed, without: [...htmlRules.without] },
      version: settings?.version ?? 0,
    })
  },
  'PUT /api/html': async ({ body: { version, rule } }) => {
    const { text } = await blog.database.getRepository(DocumentEntity).findOneByOrFail({ path: FILE })
    const changed = setHtmlRule(text, rule)
    if (changed === undefined)
      return refused({ file: FILE, ...WORKBENCH_PROBLEMS['settings-not-editable']() })
    const saved = await write(blog, (writing) =>
      saveDocuments(writing, [{ path: FILE, text: changed, version }], blog.publishing()),
    )
    return mapWritten(saved, ({ versions }) => ({ version: versions[FILE] ?? version + 1 }))
  },
  'POST /api/html/preview': async ({ body: { text, rule } }) => {
    const rules: HtmlRules = { typed: rule.typed, without: new Set(rule.without) }
    const before = markdownForPages(text, rules)
    const { html } = sanitizeHtml(before, rules, await loadImageSizes(blog.database))
    const stylesheets = [...blog.site.definition.assets.keys()].filter((name) => name.endsWith('.css'))
    return success({
      html,
      policy: pagePolicy(blog.site.definition),
      removed: droppedBy(before, html),
      words: countWords(plainText(html)),
      styles: stylesheets.flatMap((name) => assetAddress(blog.site, name) ?? []),
    })
  },
})
