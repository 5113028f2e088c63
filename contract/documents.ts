/** Operations on documents: those of the definition, and posts and pages as Markdown files. */
import { Type, type Static } from 'typebox'

import { ChangeStep } from '../core/shapes/changes.ts'
import { closed, DocumentPath, DocumentText as Text, Insist, Purged } from './fields.ts'
import type { OperationGroup } from './operation.ts'
import { ProblemItem } from './problem.ts'

export const DocumentSummary = Type.Object({
  path: Type.String(),
  kind: Type.String(),
  version: Type.Integer(),
  characters: Type.Integer(),
  usedBy: Type.Array(Type.String(), { description: 'documents that refer to it; empty for an unused one' }),
})
export type DocumentSummary = Static<typeof DocumentSummary>

export const StoredDocument = Type.Object({
  path: Type.String(),
  text: Type.String(),
  version: Type.Integer(),
})
export type StoredDocument = Static<typeof StoredDocument>

export const AppliedChanges = Type.Object({
  undo: Type.Array(ChangeStep, { description: 'the changes that undo these' }),
  versions: Type.Record(Type.String(), Type.Integer(), { description: 'the version of each saved document' }),
  addresses: Type.Array(Type.String(), { description: 'the new addresses of rows whose slug was changed' }),
  purged: Purged,
})
export type AppliedChanges = Static<typeof AppliedChanges>

export const documentOperations = {
  'GET /api/documents': {
    summary: 'List the documents of the definition',
    answer: Type.Array(DocumentSummary),
  },
  'GET /api/documents/find': {
    summary: 'Find a text in the documents of the definition',
    query: Type.Object({ text: Type.String({ minLength: 2, maxLength: 200 }) }, closed),
    answer: Type.Object({
      found: Type.Array(Type.Object({ document: Type.String(), line: Type.Integer(), text: Type.String() }), {
        description: 'the first lines',
      }),
      total: Type.Integer({ description: 'how many lines have it' }),
    }),
  },
  'GET /api/document': {
    summary: 'Return a document, or a post or a page as a Markdown file',
    query: Type.Object({ path: DocumentPath }, closed),
    answer: StoredDocument,
    versioning: 'read',
  },
  'PUT /api/document': {
    summary: 'Save a document, a post or a page, if it is valid',
    body: Type.Object(
      {
        path: DocumentPath,
        text: Text,
        version: Type.Integer({
          minimum: 0,
          description: 'the version that was read, 0 for a new document; may be sent as If-Match instead',
        }),
        insist: Insist,
      },
      closed,
    ),
    answer: Type.Object({
      path: Type.String({ description: 'the path from now on: a post’s slug may have changed' }),
      version: Type.Integer(),
      purged: Purged,
    }),
    versioning: 'change',
  },
  'POST /api/document/check': {
    summary: 'Validate a document without saving it',
    body: Type.Object({ path: DocumentPath, text: Text }, closed),
    answer: Type.Object({ problems: Type.Array(ProblemItem) }),
    readOnly: true,
  },
  'POST /api/changes': {
    summary: 'Apply several changes in order, all or none, and return the changes that undo them',
    body: Type.Object(
      { steps: Type.Array(ChangeStep, { minItems: 1, maxItems: 100 }), insist: Insist },
      closed,
    ),
    answer: AppliedChanges,
  },
} as const satisfies OperationGroup
