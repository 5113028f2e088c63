/** Handlers of the Templates area. */
import type { templateOperations } from '../../../contract/templates.ts'
import type { TemplatePreviews } from '../../previews/template-previews.ts'
import { mapValue, type HandlersOf } from '../http/handlers-of.ts'

export const templateHandlers = (previews: TemplatePreviews): HandlersOf<typeof templateOperations> => ({
  'POST /api/template/preview': ({ body }) => previews.preview(body),
  'POST /api/template/complete': ({ body }) => previews.complete(body),
  'POST /api/template/extract': async ({ body }) =>
    mapValue(await previews.extract(body), ({ changes, given, documents }) => ({
      given,
      steps: changes.map(({ document, text }) => ({
        do: 'save-document' as const,
        ...{ document, text },
        basis: documents.get(document) ?? '',
      })),
    })),
})
