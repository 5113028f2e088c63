/** The worker thread of `analysis.ts`. */
import { parentPort } from 'node:worker_threads'
import { analyseRoutes } from '../../core/routing/analysis/analysis.ts'
import { compileRoute } from '../../core/routing/addresses/compiled-route.ts'
import type { AnalysisAnswer, AnalysisRequest } from './analysis.ts'

parentPort?.on('message', ({ id, routes, policy, known }: AnalysisRequest) => {
  let answer: AnalysisAnswer
  try {
    const compiled = routes.map(({ route, passesOn }) => {
      const result = compileRoute(route)
      if (!result.ok) throw new Error(`Route “${route.name}”: ${result.error.reason}.`)
      return { compiled: result.compiled, passesOn }
    })
    answer = { id, analysis: analyseRoutes(compiled, policy, known) }
  } catch (error) {
    answer = { id, failed: error instanceof Error ? error.message : String(error) }
  }
  parentPort?.postMessage(answer)
})
