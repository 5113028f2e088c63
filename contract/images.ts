/** Operations on images. */
import { Type, type Static } from 'typebox'
import { Nullable } from '../core/shapes/nullable.ts'
import { closed, Purged, Time } from './fields.ts'
import type { OperationGroup } from './operation.ts'

export const ImageItem = Type.Object({
  name: Type.String(),
  type: Type.String(),
  width: Type.Integer({ description: 'pixels' }),
  height: Type.Integer({ description: 'pixels' }),
  bytes: Type.Integer(),
  sha256: Type.String(),
  addedAt: Time,
  address: Type.String({ description: 'address of the file on the blog' }),
  uses: Type.Array(
    Type.Object({
      how: Type.Enum(['picture', 'text', 'definition']),
      kind: Type.Enum(['post', 'page', 'document']),
      name: Type.String(),
      title: Type.String(),
    }),
    { description: 'empty if nothing uses it' },
  ),
})
export type ImageItem = Static<typeof ImageItem>

/** The body is the file itself. */
const Bytes = Type.Unsafe<Uint8Array>({ type: 'string', contentMediaType: 'application/octet-stream' })

export const imageOperations = {
  'GET /api/images': {
    summary: 'List all images, with everything that uses each',
    answer: Type.Array(ImageItem),
  },
  'PUT /api/image': {
    summary: 'Add an image (PNG, JPEG, WebP, GIF or SVG, detected from the content); the body is the file',
    query: Type.Object(
      {
        file: Type.String({
          minLength: 1,
          maxLength: 200,
          description: 'name of the file, from which the image’s name is derived',
        }),
        replaces: Type.Optional(
          Type.String({ maxLength: 120, description: 'name of the image that it replaces everywhere' }),
        ),
      },
      closed,
    ),
    body: Bytes,
    upload: true,
    answer: Type.Object({
      outcome: Type.Enum(['added', 'replaced', 'same']),
      name: Type.String(),
      width: Type.Integer(),
      height: Type.Integer(),
      removed: Type.Array(Type.Object({ what: Type.String(), line: Nullable(Type.Integer()) }), {
        description: 'what was removed: code and links of an SVG image, or the location of a photograph',
      }),
      purged: Purged,
    }),
  },
  'DELETE /api/image': {
    summary: 'Delete an image; it can be restored for 30 days',
    query: Type.Object({ name: Type.String({ minLength: 1, maxLength: 120 }) }, closed),
    answer: Type.Object({
      deleted: Type.Integer({ description: 'id by which it can be restored' }),
      purged: Purged,
    }),
  },
} as const satisfies OperationGroup
