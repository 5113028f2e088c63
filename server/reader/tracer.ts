/** Receives what happens while a request is answered. A walk records it. The no-op tracer costs nothing. */
import type { QueryParameter } from '../../core/routing/addresses/query-parameters.ts'
import type { Match, MatchedParameter } from '../../core/routing/addresses/match.ts'
import type { PageReads } from '../../core/templates/reads.ts'
import { NO_TEMPLATE_TRACER, type TemplateTracer } from '../../core/templates/tracer.ts'
import type { Take } from '../../core/queries/meaning.ts'
import type { Visibility } from '../../core/queries/plan.ts'
import type { Site, SiteQuery } from '../publish/site.ts'
import type { QueryFailure, QueryResult } from '../store/statements/run-query.ts'
import type { PoolPort, WritePort } from '../publish/ports.ts'
import type { SubmissionStep } from './comments/submission-step.ts'
import type { BlogResponse } from './responses.ts'

/** How the page parameter of a listing was read. */
export interface PageParameter {
  name: string
  raw: string | null
  type: string
  value: string | number | null
  note: string | null
  /** Whether a value was sent that cannot be used. */
  isInvalid: boolean
}

export interface QueryRun {
  /** The name of the data in templates. */
  name: string
  query: SiteQuery
  as: Visibility
  parameters: Readonly<Record<string, unknown>>
  result: QueryResult
  milliseconds: number
}

/** The data of a page once it is rendered, or once it has failed. */
export interface PageSummary {
  /** The names of the data, in the order of the route. */
  names: readonly string[]
  /** The data that no query was run for. */
  notRun: readonly { name: string; query: SiteQuery }[]
  /** The names that the page's templates read. */
  read: ReadonlySet<string>
  /** The fields that they read, with their lines; null if no template is rendered. */
  reads: PageReads | null
  failed: boolean
}

type Used = PoolPort & WritePort

export interface Tracer extends TemplateTracer {
  /** The address was refused or redirected before routing. */
  addressRead(reason: string): void
  /** The address is malformed or too long. */
  addressFailed(reason: string, hint: string): void
  routed(site: Site, method: string, path: string, match: Match, milliseconds: number): void
  /** Something to know about how the address was routed. */
  routeNoted(note: string): void
  /** What other requests for the page get, in a sentence. */
  pageCopy(note: string): void
  pathParameters(parameters: readonly MatchedParameter[]): void
  queryParameters(parameters: readonly QueryParameter[]): void
  pageParameter(parameter: PageParameter): void
  queryRan(run: QueryRun): void
  queryFailed(name: string, query: SiteQuery, failure: QueryFailure): void
  /** The number of pages of a listing is known. */
  pagesCounted(take: Take & { kind: 'pages' }, result: QueryResult): void
  queriesTook(milliseconds: number): void
  /** @param summary called only if it is recorded */
  queriesFinished(summary: () => PageSummary): void
  renderingStarted(template: string): void
  /** A fragment needs data that is not loaded. The page is rendered again once it is. */
  moreDataNeeded(): void
  renderingFinished(): void
  renderingTook(milliseconds: number): void
  /** Returns the connection and the writes that a comment form uses, observed if they are recorded. */
  observe(used: Used): Used
  /** A step of a comment form that was sent. */
  submission(step: SubmissionStep): void
  failed(error: unknown): void
  responded(response: BlogResponse, milliseconds: number): void
}

const nothing = () => undefined

export const NO_TRACER: Tracer = {
  ...NO_TEMPLATE_TRACER,
  addressRead: nothing,
  addressFailed: nothing,
  routed: nothing,
  routeNoted: nothing,
  pageCopy: nothing,
  pathParameters: nothing,
  queryParameters: nothing,
  pageParameter: nothing,
  queryRan: nothing,
  queryFailed: nothing,
  pagesCounted: nothing,
  queriesTook: nothing,
  queriesFinished: nothing,
  renderingStarted: nothing,
  moreDataNeeded: nothing,
  renderingFinished: nothing,
  renderingTook: nothing,
  observe: (used) => used,
  submission: nothing,
  failed: nothing,
  responded: nothing,
}
