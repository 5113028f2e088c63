/** What a walk says of a request that no query or template can say: the route that was found, and what failed. */
import { explainMatch, type Match } from '../../../core/routing/addresses/match.ts'
import { AddressFailure } from '../../../core/templates/filters.ts'
import { TemplateFailure } from '../../../core/templates/set.ts'
import { isOutage } from '../../store/connection.ts'
import { QueryFailure } from '../../store/statements/run-query.ts'
import type { Site } from '../../publish/site.ts'
import type { Walk } from './walk.ts'
import type { WalkFailure } from '../../../contract/walk-record.ts'

export const failure = (
  stage: WalkFailure['stage'],
  message: string,
  hint: string | null,
  place: WalkFailure['place'] = null,
  isBuild = false,
): WalkFailure => ({ stage, message, hint, place, isBuild })

/** What failed, where, and what to try. */
export function explainFailure(error: unknown): WalkFailure {
  if (error instanceof TemplateFailure) {
    const { file, line, column, message, hint } = error.problem
    const isBuild = error.cause instanceof AddressFailure
    const place = {
      document: file,
      ...(line === undefined ? {} : { line }),
      ...(column === undefined ? {} : { column }),
    }
    return failure(
      'templates',
      message,
      hint ?? 'open the line: which value stands there, and is it always set?',
      place,
      isBuild,
    )
  }
  if (error instanceof QueryFailure) {
    if (isOutage(error.cause))
      return failure(
        'queries',
        'the database does not answer',
        'see whether PostgreSQL is running; the blog recovers by itself',
      )
    return failure('queries', error.message, 'the statement is shown under its query', {
      document: `queries/${error.query}.yaml`,
    })
  }
  if (isOutage(error))
    return failure(
      'queries',
      'the database does not answer',
      'see whether PostgreSQL is running; the blog recovers by itself',
    )
  return failure('response', error instanceof Error ? error.message : String(error), null)
}

export function noteRoute(
  walk: Walk,
  site: Site,
  method: string,
  path: string,
  match: Match,
  milliseconds: number,
): void {
  const { table, routePlaces } = site.definition
  const { record } = walk
  record.route.total = table.routes.length
  record.route.milliseconds += milliseconds
  record.route.candidates = explainMatch(table, method, path, match)
  record.parameters = []
  if (match.outcome === 'matched') {
    const { name } = match.route.route
    record.route.name = name
    record.route.pattern = match.route.pattern.text
    record.route.json = match.route.route.json === true
    record.route.place = { document: 'routes.yaml', ...routePlaces.get(name) }
    return
  }
  // Set where a route matched before, and its query found nothing.
  const { pattern } = record.route
  record.route.name = record.route.pattern = null
  record.route.note =
    match.outcome === 'method-not-allowed'
      ? `only ${match.allow.join(', ')} is answered here`
      : pattern === null
        ? 'no route answers this address'
        : `${pattern} matched, but its query found nothing, and no route after it answers`
}
