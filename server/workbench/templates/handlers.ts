/** Handlers of the Templates area. */
import type { templateOperations } from '../../../contract/templates.ts'
import type { Rearranged } from '../../../core/blog/rearranging/rearranged.ts'
import type { ChangeStep } from '../../../core/shapes/changes.ts'
import type { TemplatePreviews } from '../../previews/template-previews.ts'
import { mapValue, type HandlersOf } from '../http/handlers-of.ts'

export const templateHandlers = (previews: TemplatePreviews): HandlersOf<typeof templateOperations> => ({
  'POST /api/template/preview': ({ body }) => previews.preview(body),
  'POST /api/template/complete': ({ body }) => previews.complete(body),
  'POST /api/template/extract': async ({ body }) =>
    mapValue(await previews.extract(body), ({ changes, given, documents }) => ({
      given,
      steps: stepsOf({ changes, deleted: [] }, documents),
    })),
  'POST /api/template/inline': ({ body }) => draft(previews, { do: 'inline', ...body }),
  'POST /api/template/rename-value': ({ body }) => draft(previews, { do: 'rename-value', ...body }),
  'POST /api/document/rename': ({ body }) => draft(previews, { do: 'rename-document', ...body }),
})

const draft = async (previews: TemplatePreviews, how: Parameters<TemplatePreviews['rearrange']>[0]) =>
  mapValue(await previews.rearrange(how), (found) => ({ steps: stepsOf(found, found.documents) }))

/** Returns the steps of a change, each with the text that it is based on. */
const stepsOf = ({ changes, deleted }: Rearranged, documents: ReadonlyMap<string, string>): ChangeStep[] => [
  ...changes.map(({ document, text }) => ({
    do: 'save-document' as const,
    ...{ document, text },
    basis: documents.get(document) ?? '',
  })),
  ...deleted.map((document) => ({
    do: 'delete-document' as const,
    document,
    basis: documents.get(document) ?? '',
  })),
]
