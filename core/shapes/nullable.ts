/** A schema whose value may also be null. */
import { Type, type TSchema } from 'typebox'

export const Nullable = <T extends TSchema>(schema: T) => Type.Union([schema, Type.Null()])
