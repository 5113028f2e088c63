/** Analyses routes in a worker thread, because automata can take long and readers must not wait. */
import { Worker } from 'node:worker_threads'
import type { Route } from '../../core/shapes/schemas.ts'
import type { AddressPolicy } from '../../core/routing/addresses/address.ts'
import type { RouteAnalysis } from '../../core/routing/analysis/analysis.ts'

export interface AnalysisRequest {
  id: number
  routes: { route: Route; passesOn: boolean }[]
  policy: AddressPolicy
  known: string[]
}
export type AnalysisAnswer = { id: number; analysis: RouteAnalysis } | { id: number; failed: string }

interface Waiting {
  done(analysis: RouteAnalysis): void
  fail(error: Error): void
}

/** A single thread, started on first use and again after a crash. */
export class RouteAnalyst {
  #worker: Worker | undefined
  readonly #waiting = new Map<number, Waiting>()
  #next = 1

  analyse(request: Omit<AnalysisRequest, 'id'>): Promise<RouteAnalysis> {
    const worker = (this.#worker ??= this.#start())
    const id = this.#next++
    return new Promise((done, fail) => {
      this.#waiting.set(id, { done, fail })
      worker.postMessage({ id, ...request } satisfies AnalysisRequest)
    })
  }

  async stop(): Promise<void> {
    await this.#worker?.terminate()
  }

  #start(): Worker {
    const worker = new Worker(new URL('./analysis-thread.mjs', import.meta.url))
    worker.unref()
    worker.on('message', (answer: AnalysisAnswer) => {
      const waiting = this.#waiting.get(answer.id)
      this.#waiting.delete(answer.id)
      if ('failed' in answer) waiting?.fail(new Error(answer.failed))
      else waiting?.done(answer.analysis)
    })
    const gone = (error: Error) => {
      this.#worker = undefined
      for (const waiting of this.#waiting.values()) waiting.fail(error)
      this.#waiting.clear()
    }
    worker.on('error', gone)
    worker.on('exit', () => gone(new Error('The analysis was stopped.')))
    return worker
  }
}
