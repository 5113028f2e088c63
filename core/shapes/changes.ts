/** Changes that a fix, a draft or an undo consists of. They are applied in order, all or none. */
import { Type, type Static } from 'typebox'
import { SLUG_KINDS, TERM_KINDS } from './content-kinds.ts'

const closed = { additionalProperties: false } as const
const Path = Type.String({
  minLength: 1,
  maxLength: 200,
  description: 'e.g. routes.yaml or content/posts/SLUG.md',
})
const Text = Type.String({ maxLength: 600_000 })

/** The state that the change is based on. A change of another state is a conflict. */
const basis = {
  basis: Type.Optional(
    Type.String({ maxLength: 600_000, description: 'the stored text; empty for a new document' }),
  ),
  version: Type.Optional(
    Type.Integer({ minimum: 0, description: 'the stored version, instead of `basis`; 0 for a new document' }),
  ),
}

export const SlugChange = Type.Object({
  kind: Type.Enum([...SLUG_KINDS]),
  from: Type.String({ minLength: 1, maxLength: 500, description: 'the slug, or the path of a page' }),
  to: Type.String({ minLength: 1, maxLength: 500 }),
})
export type SlugChange = Static<typeof SlugChange>

export const ChangeStep = Type.Union([
  Type.Object({ do: Type.Literal('save-document'), document: Path, text: Text, ...basis }, closed),
  Type.Object({ do: Type.Literal('delete-document'), document: Path, ...basis }, closed),
  Type.Object({ do: Type.Literal('change-slug'), ...SlugChange.properties }, closed),
  Type.Object(
    {
      do: Type.Literal('delete-term'),
      kind: Type.Enum([...TERM_KINDS]),
      slug: Type.String({ minLength: 1, maxLength: 100 }),
      version: Type.Integer({ minimum: 1 }),
    },
    closed,
  ),
  Type.Object(
    {
      do: Type.Literal('restore'),
      deleted: Type.Integer({ minimum: 1, maximum: 2_147_483_647, description: 'id of the deletion' }),
    },
    closed,
  ),
])
export type ChangeStep = Static<typeof ChangeStep>

/** The new text of a document, as a form proposes it. */
export interface DocumentChange {
  document: string
  text: string
}
