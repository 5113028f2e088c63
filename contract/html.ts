/** Operations on the allow-list of HTML in texts. */
import { Type } from 'typebox'
import { ALLOWED_ELEMENTS, ELEMENT_GROUPS } from '../core/shapes/html-elements.ts'
import { closed, Purged, Version } from './fields.ts'
import type { OperationGroup } from './operation.ts'

const HtmlRule = Type.Object(
  {
    typed: Type.Boolean({ description: 'false to show HTML that is typed in a text as text' }),
    without: Type.Array(Type.Enum(ALLOWED_ELEMENTS.map((one) => one.name)), { maxItems: 100 }),
  },
  closed,
)

export const htmlOperations = {
  'GET /api/html': {
    summary: 'Return the allow-list, the definition’s rule, and how many texts use each element',
    answer: Type.Object({
      elements: Type.Array(
        Type.Object({
          name: Type.String(),
          group: Type.Enum([...ELEMENT_GROUPS]),
          attributes: Type.Array(Type.String()),
          texts: Type.Integer({ description: 'how many of the latest posts and pages use it' }),
        }),
      ),
      latest: Type.Integer({
        description: 'how many of the latest posts, and of the latest pages, are counted',
      }),
      schemes: Type.Array(Type.String()),
      rule: HtmlRule,
      version: Type.Integer({ description: 'version of blog.yaml, which has the rule' }),
    }),
    versioning: 'read',
  },
  'PUT /api/html': {
    summary: 'Save the rule in blog.yaml; stored texts are rendered again',
    body: Type.Object({ version: Version, rule: HtmlRule }, closed),
    answer: Type.Object({ version: Type.Integer(), purged: Purged }),
    versioning: 'change',
  },
  'POST /api/html/preview': {
    summary: 'Render a text as readers would see it, and list what is removed',
    body: Type.Object({ text: Type.String({ maxLength: 500_000 }), rule: HtmlRule }, closed),
    answer: Type.Object({
      html: Type.String(),
      policy: Type.String({ description: 'content security policy of the blog’s pages' }),
      removed: Type.Array(Type.Object({ what: Type.String(), times: Type.Integer() })),
      words: Type.Integer(),
      styles: Type.Array(Type.String(), { description: 'addresses of the blog’s stylesheets' }),
    }),
    readOnly: true,
  },
} as const satisfies OperationGroup
