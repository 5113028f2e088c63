/** Analyses routes in a worker thread, because automata can take long and readers must not wait. */
import type { Route } from '../../core/shapes/schemas.ts'
import type { AddressPolicy } from '../../core/routing/addresses/address.ts'
import type { RouteAnalysis } from '../../core/routing/analysis/analysis.ts'
import { Thread } from './thread.ts'

export interface AnalysisRequest {
  routes: { route: Route; passesOn: boolean }[]
  policy: AddressPolicy
  known: string[]
}

export class RouteAnalyst {
  readonly #thread = new Thread<AnalysisRequest, RouteAnalysis>(
    new URL('./analysis-thread.mjs', import.meta.url),
  )

  analyse(request: AnalysisRequest): Promise<RouteAnalysis> {
    return this.#thread.ask(request)
  }

  stop(): Promise<void> {
    return this.#thread.stop()
  }
}
