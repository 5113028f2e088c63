/** The texts of the Templates area. */
import { plural } from '../../shared/words/format.ts'

export const words = {
  title: 'Templates',
  count: (count: number) => plural(count, 'document'),
  otherDocuments: 'Documents',
  editor: 'Editor',
  newDocument: 'New: partials/name or name.css',
  choose: 'Choose a document on the left.',
  empty: 'There are no templates yet. Create one below.',
  unused: 'unused',
  unusedHint: 'No route, page or partial uses it.',
  usedBy: (documents: readonly string[]) => `Used by ${documents.join(', ')}`,
  deleted: (path: string) => `${path} was deleted.`,
  walk: (address: string) => `Walk ${address} with this document open`,
} as const
