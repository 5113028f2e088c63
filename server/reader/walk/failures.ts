/** Describes why a request failed: at which stage, where, and what to do about it. */
import { AddressFailure, TemplateFailure } from '../../../core/templates/failure.ts'
import type { WalkFailure } from '../../../contract/walk-record.ts'
import { isOutage } from '../../store/connection.ts'
import { QueryFailure } from '../../store/statements/run-query.ts'

export const failureAt = (
  stage: WalkFailure['stage'],
  message: string,
  hint: string | null,
  place: WalkFailure['place'] = null,
  isBuild = false,
): WalkFailure => ({ stage, message, hint, place, isBuild })

const OUTAGE = failureAt(
  'queries',
  'The database does not respond.',
  'Check that PostgreSQL is running. The blog reconnects automatically.',
)

export function explainFailure(error: unknown): WalkFailure {
  if (error instanceof TemplateFailure) {
    const { file, line, column, message, hint } = error.problem
    const place = {
      document: file,
      ...(line === undefined ? {} : { line }),
      ...(column === undefined ? {} : { column }),
    }
    return failureAt(
      'templates',
      message,
      hint ?? 'Open the line and check that its values are always set.',
      place,
      error.cause instanceof AddressFailure,
    )
  }
  if (error instanceof QueryFailure) {
    if (isOutage(error.cause)) return OUTAGE
    const place = { document: `queries/${error.query}.yaml` }
    return failureAt('queries', error.message, 'The statement is shown below the query.', place)
  }
  if (isOutage(error)) return OUTAGE
  return failureAt('response', error instanceof Error ? error.message : String(error), null)
}
