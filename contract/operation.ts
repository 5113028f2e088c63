/** The shape of an operation of the workbench's API. */
import type { TSchema } from 'typebox'

/**
 * How an operation takes part in optimistic locking. The server derives ETag, If-Match and the statuses 409, 412 and
 * 428 from it.
 *
 * - `read`: the answer carries `version`, which is also sent as a strong ETag.
 * - `create`: the same, for a row that the operation creates.
 * - `change`: the input must name the version that was read, in the body or as If-Match. Without one the answer is 428;
 *   with an outdated one it is 409, or 412 where If-Match named it. An answer that carries `version` sends it as ETag.
 */
export type Versioning = 'read' | 'create' | 'change'

export interface Operation {
  /** One sentence without a full stop, in the imperative. */
  summary: string
  query?: TSchema
  body?: TSchema
  /** The body is a file, not JSON. */
  upload?: boolean
  answer: TSchema
  versioning?: Versioning
  /** A POST that changes nothing, such as a preview. Clients keep what they have read. */
  readOnly?: boolean
}

/** The operations of an area, by method and path. */
export type OperationGroup = Readonly<
  Record<`${'GET' | 'POST' | 'PUT' | 'DELETE'} /api/${string}`, Operation>
>
