/** An operation that cannot be done, as problem details (RFC 9457). */
import type { ProblemDetails } from '../../../contract/operations.ts'

export class Refusal extends Error {
  constructor(readonly details: Omit<ProblemDetails, 'type'>) {
    super(details.title)
  }
}
