/** The worker thread of `server/publish/trials.ts`. */
import type { DataSource } from 'typeorm'
import { readDefinition } from '../../core/blog/read.ts'
import type { Outcome } from '../../core/shapes/outcome.ts'
import { databaseAt, siteOf } from '../publish/in-thread.ts'
import type { Site } from '../publish/site.ts'
import { answerWith } from '../jobs/answering.ts'
import type { Documents, FailedAddress, TrialAnswer, TrialQuestion } from '../publish/trials.ts'
import { answer } from '../reader/answer.ts'
import { Blog } from '../reader/blog.ts'
import type { BlogRequest } from '../reader/request.ts'
import { errorTemplateFailure } from '../reader/error-pages.ts'
import { Walk } from '../reader/walk/walk.ts'
import { requestsToTry } from './addresses.ts'

const quiet = { info: () => undefined, error: () => undefined }

answerWith(async (question: TrialQuestion, trying: (path: string) => void): Promise<TrialAnswer> => {
  const { documents } = question
  if (question.kind === 'read') return problemsOf(documents)
  const database = await databaseAt(question.url)
  const site = valueOf(siteOf(database, documents))
  if (!site) return problemsOf(documents)
  const current = valueOf(siteOf(database, question.current))
  const failed: FailedAddress[] = []
  const blog = blogOf(database, site)
  // What fails already does not keep an author from saving something else.
  for (const one of await requestsToTry(blog, site, current)) {
    trying(one.target)
    const failure = await failureOf(blog, one)
    if (failure && !(current && (await failureOf(blogOf(database, current), one)))) failed.push(failure)
  }
  const failing = failingErrorPage(site)
  if (failing && !(current && failingErrorPage(current))) failed.push(failing)
  return { failed }
})

const valueOf = (built: Outcome<Site>) => (built.ok ? built.value : undefined)

function problemsOf(documents: Documents): TrialAnswer {
  const read = readDefinition(documents)
  return { problems: read.ok ? [] : read.problems }
}

/** Renders the template of error pages. Readers get the plain page if it fails. */
function failingErrorPage(site: Site): FailedAddress | undefined {
  const failure = errorTemplateFailure(site)
  return failure && { method: 'GET', status: 500, path: site.definition.settings.error ?? '', ...failure }
}

const blogOf = (database: DataSource, site: Site) =>
  new Blog({ database, site, log: quiet, fragments: 'off' })

async function failureOf(blog: Blog, request: BlogRequest): Promise<FailedAddress | undefined> {
  const walk = new Walk(request, blog.clock(), blog.site.version)
  const { status } = await answer(blog, request, walk)
  // The database being unavailable says nothing about the definition.
  if (status < 500 || status === 503) return undefined
  const { failure } = walk.record
  return {
    method: request.method,
    path: request.target,
    status,
    message: failure?.message ?? 'The page could not be rendered.',
    file: failure?.place?.document,
    line: failure?.place?.line,
  }
}
