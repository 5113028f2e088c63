/** Handlers of the steps in which a blog is built. */
import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import type { buildingOperations } from '../../../contract/building.ts'
import { draftStep } from '../../../core/blog/building/steps.ts'
import { assetPath } from '../../../core/shapes/documents.ts'
import { importSamples } from '../../author/documents/import-samples.ts'
import { readFolder } from '../../author/documents/definition-folder.ts'
import { write } from '../../author/writing.ts'
import type { TemplatePreviews } from '../../previews/template-previews.ts'
import { loadDocuments } from '../../publish/documents.ts'
import type { Blog } from '../../reader/blog.ts'
import { mapValue, withPurged, type HandlersOf } from '../http/handlers-of.ts'
import { commentParts } from '../routes/comment-parts.ts'

const STYLESHEET = assetPath('blog.css')

/** @param shipped the folder of the demo blog, which has the folder of a new one beside it */
export function buildingHandlers(
  blog: Blog,
  previews: TemplatePreviews,
  shipped: string,
): HandlersOf<typeof buildingOperations> {
  return {
    'GET /api/building': () => previews.building(),
    'POST /api/building/draft': async ({ body: { step, look = 'bench' } }) => {
      const [documents, parts, stylesheet, blank] = await Promise.all([
        loadDocuments(blog.database),
        commentParts(shipped),
        readFile(join(shipped, STYLESHEET), 'utf8'),
        readFolder(join(shipped, '../blank')),
      ])
      parts.set(STYLESHEET, stylesheet)
      const drafted = draftStep(step, {
        ...{ documents, parts, look },
        definition: blog.site.definition,
        blank: blank.texts,
      })
      return mapValue(drafted, ({ changes, kept }) => ({
        steps: changes.map(({ document, text }) => ({
          do: 'save-document' as const,
          ...{ document, text },
          basis: documents.get(document) ?? '',
        })),
        kept,
      }))
    },
    'POST /api/building/samples': async () =>
      withPurged(await write(blog, (writing) => importSamples(writing, shipped))),
  }
}
