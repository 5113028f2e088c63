/** The worker thread of `analysis.ts`. */
import { analyseRoutes } from '../../core/routing/analysis/analysis.ts'
import { compileRoute } from '../../core/routing/addresses/compiled-route.ts'
import type { AnalysisRequest } from './analysis.ts'
import { answerWith } from './answering.ts'

answerWith(({ routes, policy, known }: AnalysisRequest) => {
  const compiled = routes.map(({ route, passesOn }) => {
    const result = compileRoute(route)
    if (!result.ok) throw new Error(`Route “${route.name}”: ${result.error.reason}.`)
    return { compiled: result.compiled, passesOn }
  })
  return analyseRoutes(compiled, policy, known)
})
