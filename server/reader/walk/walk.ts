/** Records a request while it is answered: the tracer of a walk. */
import { explainMatch, type Match, type MatchedParameter } from '../../../core/routing/addresses/match.ts'
import type { QueryParameter } from '../../../core/routing/addresses/query-parameters.ts'
import { pageCount } from '../../../core/paging/numbered.ts'
import type { Take } from '../../../core/queries/meaning.ts'
import type { WalkQuery, WalkRecord } from '../../../contract/walk-record.ts'
import type { Site, SiteQuery } from '../../publish/site.ts'
import type { QueryFailure, QueryResult } from '../../store/statements/run-query.ts'
import type { PoolPort, WritePort } from '../../publish/ports.ts'
import type { SubmissionStep } from '../comments/submission-step.ts'
import type { BlogRequest } from '../request.ts'
import type { BlogResponse } from '../responses.ts'
import type { PageParameter, PageSummary, QueryRun, Tracer } from '../tracer.ts'
import { explainFailure, failureAt } from './failures.ts'
import { failedQuery, finishedQueries, queryRun } from './query-runs.ts'
import { SubmissionRecorder } from './submission-recorder.ts'
import { TemplateRecorder } from './template-recorder.ts'

/** A query that returned no rows. `why-empty.ts` finds out why after the request is answered. */
export interface EmptyRun {
  run: WalkQuery
  query: SiteQuery
  parameters: Record<string, unknown>
}

export class Walk implements Tracer {
  readonly isRecording = true
  readonly record: WalkRecord
  readonly emptyRuns: EmptyRun[] = []
  #templates = new TemplateRecorder()
  #isLate = false
  readonly submissions = new SubmissionRecorder()

  constructor(request: BlogRequest, at: Date, version: string) {
    this.record = {
      id: request.id,
      at: at.toISOString(),
      method: request.method,
      target: request.target,
      as: request.as,
      accepts: request.accepts,
      milliseconds: 0,
      route: {
        name: null,
        pattern: null,
        json: false,
        place: null,
        candidates: [],
        total: 0,
        note: null,
        milliseconds: 0,
      },
      parameters: [],
      queries: { runs: [], milliseconds: 0 },
      templates: { page: null, tree: [], rounds: 0, milliseconds: 0 },
      copy: null,
      fragments: [],
      submission: null,
      response: { status: 0, headers: {}, bytes: 0, body: '', milliseconds: 0 },
      failure: null,
      version,
    }
  }

  addressRead(reason: string): void {
    this.record.route.note = reason
  }

  addressFailed(reason: string, hint: string): void {
    this.record.failure = failureAt('address', reason, hint)
  }

  routed(site: Site, method: string, path: string, match: Match, milliseconds: number): void {
    const { table, routePlaces } = site.definition
    const { route } = this.record
    route.total = table.routes.length
    route.milliseconds += milliseconds
    route.candidates = explainMatch(table, method, path, match)
    this.record.parameters = []
    if (match.outcome === 'matched') {
      const { name } = match.route.route
      route.name = name
      route.pattern = match.route.pattern.text
      route.json = match.route.route.json === true
      route.place = { document: 'routes.yaml', ...routePlaces.get(name) }
      return
    }
    // The pattern of a route that matched before, and whose query found no row.
    const { pattern } = route
    route.name = route.pattern = null
    route.note =
      match.outcome === 'method-not-allowed'
        ? `This address only answers ${match.allow.join(', ')}.`
        : pattern === null
          ? 'No route matches this address.'
          : `${pattern} matched, but its query found no row, and no later route matches.`
  }

  routeNoted(note: string): void {
    this.record.route.note = note
  }

  pageCopy(note: string): void {
    this.record.copy = note
  }

  pathParameters(parameters: readonly MatchedParameter[]): void {
    this.record.parameters = parameters.map((one) => ({ ...one, from: 'path', note: null, isInvalid: false }))
  }

  queryParameters(parameters: readonly QueryParameter[]): void {
    this.record.parameters.push(...parameters.map((one) => ({ ...one, from: 'query' as const })))
  }

  pageParameter(parameter: PageParameter): void {
    if (!this.#queryParameter(parameter.name)) this.record.parameters.push({ ...parameter, from: 'query' })
  }

  #queryParameter(name: string) {
    return this.record.parameters.find((one) => one.name === name && one.from === 'query')
  }

  queryRan(run: QueryRun): void {
    const recorded = queryRun(run, this.#isLate)
    this.record.queries.runs.push(recorded)
    if (recorded.outcome === 'empty')
      this.emptyRuns.push({ run: recorded, query: run.query, parameters: { ...run.parameters } })
  }

  queryFailed(name: string, query: SiteQuery, failure: QueryFailure): void {
    this.record.queries.runs.push(failedQuery(name, query, failure))
  }

  pagesCounted({ parameter, by, size }: Take & { kind: 'pages' }, { total, isEstimated }: QueryResult): void {
    const noted = this.#queryParameter(parameter)
    if (!noted || total === undefined || by === 'cursor') return
    const count = `${isEstimated ? 'about ' : ''}${pageCount(total, size)}`
    noted.note = noted.note === null ? `of ${count}` : `${noted.note}; of ${count}`
  }

  queriesTook(milliseconds: number): void {
    this.record.queries.milliseconds += milliseconds
  }

  queriesFinished(summary: () => PageSummary): void {
    finishedQueries(this.record.queries.runs, summary())
  }

  renderingStarted(template: string): void {
    this.#templates = new TemplateRecorder()
    this.record.templates.rounds++
    this.record.templates.page = template
    this.#templates.enterTemplate(template, null)
  }

  enterTemplate(name: string, from: { file: string; line: number }): void {
    this.#templates.enterTemplate(name, from)
  }

  leaveTemplate(): void {
    this.#templates.leaveTemplate()
  }

  moreDataNeeded(): void {
    this.#isLate = true
  }

  renderingFinished(): void {
    this.#templates.leaveTemplate()
    this.record.templates.tree = this.#templates.tree()
  }

  renderingTook(milliseconds: number): void {
    this.record.templates.milliseconds += milliseconds
  }

  observe(used: PoolPort & WritePort): PoolPort & WritePort {
    return this.submissions.observe(used)
  }

  submission(step: SubmissionStep): void {
    this.submissions.add(step)
  }

  failed(error: unknown): void {
    this.record.failure = explainFailure(error)
  }

  responded({ status, headers, body, fragments }: BlogResponse, milliseconds: number): void {
    this.record.response = {
      ...this.record.response,
      status,
      headers,
      body,
      bytes: Buffer.byteLength(body),
    }
    if (!this.submissions.isEmpty) this.record.submission = this.submissions.record(status)
    this.record.fragments = fragments.map((one) => ({ ...one }))
    this.record.milliseconds = milliseconds
  }
}
