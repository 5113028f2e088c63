/** Operations of the Templates area: the page as it would be, what its templates see, and completion. */
import { Type, type Static } from 'typebox'
import { ChangeStep } from '../core/shapes/changes.ts'
import { Nullable } from '../core/shapes/nullable.ts'
import { closed, DocumentPath, DocumentText, Policy } from './fields.ts'
import type { OperationGroup } from './operation.ts'
import { ProblemItem } from './problem.ts'

const Offset = Type.Integer({ minimum: 0, maximum: 600_000, description: 'offset in the text' })

const Texts = Type.Record(Type.String({ maxLength: 200 }), DocumentText, {
  maxProperties: 40,
  description: 'the texts of documents that are not saved, by path',
})

/** A value that a template sees. */
export const ShownValue = Type.Object({
  depth: Type.Integer({ description: '0 for a name, more for fields and items in it' }),
  name: Type.String(),
  path: Type.String({ description: 'as templates write it, e.g. post.category.name' }),
  type: Type.String({ description: 'in words' }),
  canBeEmpty: Type.Boolean(),
  value: Nullable(Type.String({ description: 'its start; null if it is not known' })),
  isEmpty: Type.Boolean(),
})
export type ShownValue = Static<typeof ShownValue>

export const TemplatePreview = Type.Object({
  problems: Type.Array(ProblemItem, { description: 'why the definition would be refused' }),
  page: Nullable(
    Type.Object({
      status: Type.Integer(),
      route: Nullable(Type.String()),
      html: Type.String({ description: 'data-printed has the number of each element' }),
      policy: Policy,
      location: Nullable(Type.String({ description: 'where a redirect leads' })),
      places: Type.Array(
        Type.Object({
          document: Type.String(),
          line: Type.Integer(),
          time: Type.Integer({ description: '1 for the first rendering of the template on the page' }),
        }),
      ),
      elements: Type.Array(
        Type.Object({
          tag: Type.Array(Type.Integer(), {
            description: 'indexes of the places that printed its start tag',
          }),
          texts: Type.Array(Type.Integer(), { description: 'the same for its texts, -1 for none' }),
        }),
      ),
      failure: Nullable(
        Type.Object({
          message: Type.String(),
          hint: Nullable(Type.String()),
          document: Nullable(Type.String()),
          line: Nullable(Type.Integer()),
        }),
      ),
      milliseconds: Type.Number(),
    }),
  ),
  times: Type.Integer({ description: 'how many times the page renders the template' }),
  scopes: Type.Array(Type.Object({ rows: Type.Array(ShownValue), isCut: Type.Boolean() })),
  lines: Type.Array(
    Type.Object({ line: Type.Integer(), scope: Type.Integer(), isRendered: Type.Boolean() }),
    { description: 'the scope at each line that has a part of the template' },
  ),
  reads: Type.Array(
    Type.Object({
      path: Type.String(),
      type: Type.String(),
      canBeEmpty: Type.Boolean(),
      lines: Type.Array(Type.Integer()),
    }),
    { description: 'what the template reads' },
  ),
  faults: Type.Array(
    Type.Object({
      kind: Type.String(),
      line: Type.Integer(),
      column: Type.Integer(),
      subject: Type.String(),
      message: Type.String(),
      hint: Type.String(),
    }),
    { description: 'faults of the template that follow from types' },
  ),
  repeats: Type.Array(
    Type.Object({
      from: Type.Integer(),
      to: Type.Integer(),
      others: Type.Array(Type.Object({ document: Type.String(), from: Type.Integer(), to: Type.Integer() })),
    }),
    { description: 'markup of the template that is also somewhere else, the longest first' },
  ),
})
export type TemplatePreview = Static<typeof TemplatePreview>

export const templateOperations = {
  'POST /api/template/preview': {
    summary: 'Render a page with unsaved templates, and show what a template sees and prints',
    body: Type.Object(
      {
        document: DocumentPath,
        texts: Texts,
        target: Type.String({ minLength: 1, maxLength: 4_000, description: 'path and query string' }),
        as: Type.Optional(Type.Enum(['reader', 'author'])),
        time: Type.Optional(
          Type.Integer({
            minimum: 1,
            maximum: 100_000,
            description: 'whose values are shown, if the page renders the template several times',
          }),
        ),
      },
      closed,
    ),
    answer: TemplatePreview,
    readOnly: true,
  },
  'POST /api/template/complete': {
    summary: 'Complete what a template may name at an offset, by type',
    body: Type.Object(
      {
        document: DocumentPath,
        text: DocumentText,
        at: Type.Integer({ minimum: 0, maximum: 600_000, description: 'offset of the cursor in the text' }),
        texts: Texts,
        route: Nullable(
          Type.String({
            maxLength: 60,
            description: 'of the page that is looked at, if it renders the template',
          }),
        ),
      },
      closed,
    ),
    answer: Type.Object({
      from: Type.Integer({ description: 'offset of the word that is completed' }),
      choices: Type.Array(Type.Object({ value: Type.String(), detail: Type.String() })),
    }),
    readOnly: true,
  },
  'POST /api/template/extract': {
    summary: 'Draft a partial from a selection of a template, without saving it',
    body: Type.Object(
      {
        document: DocumentPath,
        text: DocumentText,
        from: Offset,
        to: Offset,
        name: Type.String({
          pattern: '^[a-z0-9]+(-[a-z0-9]+)*$',
          maxLength: 60,
          description: 'without its folder',
        }),
      },
      closed,
    ),
    answer: Type.Object({
      steps: Type.Array(ChangeStep),
      given: Type.Array(Type.String(), { description: 'the arguments of the partial' }),
    }),
    readOnly: true,
  },
  'POST /api/template/inline': {
    summary: 'Draft a template with a partial in the place of the tag that renders it, without saving it',
    body: Type.Object({ document: DocumentPath, text: DocumentText, at: Offset }, closed),
    answer: Type.Object({ steps: Type.Array(ChangeStep) }),
    readOnly: true,
  },
  'POST /api/template/rename-value': {
    summary:
      'Draft another name for a value of a template, or for an argument of a partial, without saving it',
    body: Type.Object(
      {
        document: DocumentPath,
        text: DocumentText,
        at: Offset,
        to: Type.String({ minLength: 1, maxLength: 60 }),
      },
      closed,
    ),
    answer: Type.Object({ steps: Type.Array(ChangeStep) }),
    readOnly: true,
  },
  'POST /api/document/rename': {
    summary: 'Draft another name for a template, an asset or a query, with all its uses, without saving it',
    body: Type.Object({ from: DocumentPath, to: DocumentPath }, closed),
    answer: Type.Object({ steps: Type.Array(ChangeStep) }),
    readOnly: true,
  },
} as const satisfies OperationGroup
