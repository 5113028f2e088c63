/** The types of operation handlers, derived from the contract. */
import type { AnswerOf, BodyOf, OperationName, Operations, QueryOf } from '../../../contract/operations.ts'
import type { DroppedCopy } from '../../../contract/fields.ts'
import { success, type Outcome } from '../../../core/shapes/outcome.ts'
import type { Written } from '../../store/store.ts'

export interface Input<Name extends OperationName> {
  query: QueryOf<Name>
  body: BodyOf<Name>
}

export type Handler<Name extends OperationName> = (
  input: Input<Name>,
) => Promise<Outcome<AnswerOf<Name>>> | Outcome<AnswerOf<Name>>

export type Handlers = HandlersOf<Operations>

/** The handlers of some operations, e.g. of an area. */
export type HandlersOf<Part> = { [Name in keyof Part & OperationName]: Handler<Name> }

/** Returns the outcome of a write with the copies that were dropped in its value. */
export const withPurged = <T extends object>(written: Written<T>): Outcome<T & { purged: DroppedCopy[] }> =>
  written.ok ? success({ ...written.value, purged: written.purged }) : written

/** Converts the value of a write, and adds the copies that were dropped. */
export const mapWritten = <T, R extends object>(
  written: Written<T>,
  convert: (value: T) => R,
): Outcome<R & { purged: DroppedCopy[] }> =>
  written.ok ? success({ ...convert(written.value), purged: written.purged }) : written

/** Converts the value of an outcome. */
export const mapValue = <T, R>(outcome: Outcome<T>, convert: (value: T) => R): Outcome<R> =>
  outcome.ok ? success(convert(outcome.value)) : outcome
