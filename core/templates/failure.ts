/** Errors thrown while a template is parsed or rendered. */
import type { Worded } from '../shapes/catalogue.ts'
import type { Problem } from '../shapes/problem.ts'

/** An error with a stable code, thrown inside a tag or a filter. */
export class WordedError extends Error {
  constructor(readonly worded: Worded) {
    super(worded.message)
  }
}

/** Thrown by the filter `url` when an address cannot be built from the given values. */
export class AddressFailure extends WordedError {}

/** A rendering that failed, with the line of the template. */
export class TemplateFailure extends Error {
  /** @param cause what was thrown inside the template */
  constructor(
    readonly problem: Problem,
    override readonly cause?: unknown,
  ) {
    super(problem.message)
  }
}

/** Returns the innermost error: liquidjs wraps an error once for each place it passes. */
export function innermost(error: unknown): unknown {
  let inner = error
  while (
    typeof inner === 'object' &&
    inner !== null &&
    'originalError' in inner &&
    inner.originalError !== undefined
  )
    inner = inner.originalError
  return inner
}
