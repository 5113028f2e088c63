/** Handlers of the Walk area. */
import type { QueryOf } from '../../../contract/operations.ts'
import type { walkOperations } from '../../../contract/walk.ts'
import type { WalkRecord } from '../../../contract/walk-record.ts'
import { success, unknown } from '../../../core/shapes/outcome.ts'
import { walkedRuns } from '../../probes/walked-runs.ts'
import { explainEmptyResults } from '../../probes/why-empty.ts'
import { walkSubmission } from '../../probes/walk-submission.ts'
import { answer } from '../../reader/answer.ts'
import type { Blog } from '../../reader/blog.ts'
import { internalRequest } from '../../reader/request.ts'
import { Walk } from '../../reader/walk/walk.ts'
import type { HandlersOf } from '../http/handlers-of.ts'
import { WORKBENCH_PROBLEMS } from '../problems.ts'
import { explainStatements } from '../queries/explain-statements.ts'
import { suggestions } from './suggestions.ts'

export const walkHandlers = (blog: Blog): HandlersOf<typeof walkOperations> => ({
  'GET /api/walk': async ({ query }) => success(await walk(blog, query)),
  'POST /api/walk/submission': async ({ body }) => {
    const walk = await walkSubmission(blog, body)
    return walk
      ? success(walk)
      : unknown({ file: body.path, ...WORKBENCH_PROBLEMS['walk-no-form'](body.path) })
  },
  'GET /api/walk/plan': async ({ query: { path, as, accepts, data } }) => {
    const run = (await walkedRuns(blog, path, as, accepts)).find((one) => one.data === data)
    if (!run || run.statements.length === 0)
      return unknown({ file: path, ...WORKBENCH_PROBLEMS['walk-no-statements'](path, data) })
    return await explainStatements(
      blog.database,
      run.statements.map(({ sql, values }, index) => ({
        what: index === 0 ? 'The rows' : `Statement ${index + 1}`,
        statement: { sql, slots: values.map((value) => ({ kind: 'fixed' as const, value })) },
        binding: { parameters: {} },
      })),
    )
  },
  'GET /api/suggestions': async () => success(await suggestions(blog)),
  'GET /api/traffic': () => success(blog.traffic.recent()),
})

async function walk(
  blog: Blog,
  { path, as = 'reader', accepts = 'html', kept = 'true', method = 'GET' }: QueryOf<'GET /api/walk'>,
): Promise<WalkRecord> {
  const target = path.startsWith('/') ? path : `/${path}`
  const request = internalRequest(target, { as, accepts, method })
  const tracer = new Walk(request, blog.clock(), blog.site.version)
  const { file } = await answer(kept === 'true' ? blog : blog.withoutFragments(), request, tracer)
  // An image is made when it is sent.
  if (file) tracer.record.response.bytes = (await file()).byteLength
  if (tracer.record.failure === null) await explainEmptyResults(blog, tracer)
  return tracer.record
}
