/** The types of operation handlers, derived from the contract. */
import type { AnswerOf, BodyOf, OperationName, Operations, QueryOf } from '../../../contract/operations.ts'

export interface Input<Name extends OperationName> {
  query: QueryOf<Name>
  body: BodyOf<Name>
}
export type Handlers = HandlersOf<Operations>
/** Handlers of some of the operations: those of one area. */
export type HandlersOf<Part> = {
  [Name in keyof Part & OperationName]: (input: Input<Name>) => Promise<AnswerOf<Name>> | AnswerOf<Name>
}
