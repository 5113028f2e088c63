/** Schemas that the operations of several areas share. */
import { Type, type Static } from 'typebox'
import { Nullable } from '../core/shapes/nullable.ts'

/** Options of an object schema that rejects unknown properties. */
export const closed = { additionalProperties: false } as const

/** One line of text without control characters. */
export const Line = (maximum: number) =>
  Type.String({ minLength: 1, maxLength: maximum, pattern: '^[^\\u0000-\\u001f]*$' })

export const Slug = Type.String({ minLength: 1, maxLength: 100 })

export const PagePath = Type.String({
  minLength: 1,
  maxLength: 500,
  description: 'slugs of the page and its ancestors, joined by “/”',
})

export const DocumentPath = Type.String({
  minLength: 1,
  maxLength: 200,
  description: 'e.g. routes.yaml or content/posts/SLUG.md',
})

export const DocumentText = Type.String({ maxLength: 600_000 })

export const Insist = Type.Optional(
  Type.Boolean({ description: 'true to save even if an address would answer 500 from then on' }),
)

export const Version = Type.Integer({
  minimum: 1,
  description: 'the version that was read; may be sent as If-Match instead',
})

export const Time = Type.String({ format: 'date-time' })

export const Milliseconds = Type.Number({ description: 'milliseconds' })

export type DroppedCopy = Static<typeof DroppedCopy>
export const DroppedCopy = Type.Object({
  key: Type.String(),
  name: Type.String({ description: 'name of the fragment' }),
  why: Type.String({ description: 'the change that affects it, e.g. post 31: title changed' }),
})

export const Purged = Type.Array(DroppedCopy, { description: 'the copies that were dropped, and why' })

export const Address = Nullable(
  Type.String({ description: 'address on the blog; null if no route shows it' }),
)

export const Policy = Nullable(
  Type.String({ description: 'content security policy of the page; null if no route shows it' }),
)

export const FormerSlugs = Type.Array(Type.String(), {
  description: 'former slugs or paths that redirect here',
})

/** Largest value of PostgreSQL's `integer`. */
export const LARGEST_ID = 2_147_483_647
