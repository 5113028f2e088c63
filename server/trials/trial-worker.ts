/** The worker thread of `server/publish/trials.ts`. */
import { TemplateFailure } from '../../core/templates/failure.ts'
import { parentPort } from 'node:worker_threads'
import type { DataSource } from 'typeorm'
import { readDefinition } from '../../core/blog/read.ts'
import { buildSite, type Site } from '../publish/site.ts'
import type { Documents, FailedAddress, TrialMessage, TrialRequest } from '../publish/trials.ts'
import { answer } from '../reader/answer.ts'
import { Blog } from '../reader/blog.ts'
import type { BlogRequest } from '../reader/request.ts'
import { renderError } from '../reader/error-pages.ts'
import { Walk } from '../reader/walk/walk.ts'
import { makeDataSource } from '../store/connection.ts'
import { requestsToTry } from './addresses.ts'

const quiet = { info: () => undefined, error: () => undefined }
const post = (message: TrialMessage) => parentPort?.postMessage(message)

parentPort?.on('message', (request: TrialRequest) => {
  const { id } = request
  work(request).catch((error: unknown) =>
    post({ id, kind: 'crashed', message: error instanceof Error ? error.message : String(error) }),
  )
})

async function work(request: TrialRequest): Promise<void> {
  const { id, documents } = request
  if (request.kind === 'read') {
    const read = readDefinition(documents)
    post({ id, kind: 'read', problems: read.ok ? [] : read.problems })
    return
  }
  const database = await databaseAt(request.url)
  const site = siteOf(database, documents)
  const current = siteOf(database, request.current)
  const failed: FailedAddress[] = []
  if (!site) {
    const read = readDefinition(documents)
    return post({ id, kind: 'read', problems: read.ok ? [] : read.problems })
  }
  const blog = blogOf(database, site)
  const requests = await requestsToTry(blog, site, current)
  for (const one of requests) {
    post({ id, kind: 'trying', path: one.target })
    const failure = await failureOf(blog, one)
    // What fails already does not keep an author from saving something else.
    if (failure && !(current && (await failureOf(blogOf(database, current), one)))) failed.push(failure)
  }
  failed.push(...failingErrorPage(site))
  post({ id, kind: 'rendered', failed, tried: requests.length })
}

/** The template of error pages is rendered as well. If it fails later, readers get the plain page. */
function failingErrorPage(site: Site): FailedAddress[] {
  const { settings, say } = site.definition
  if (settings.error === undefined) return []
  try {
    renderError(site, settings.error, { status: 500, title: say('failed-title'), text: say('failed-text') })
    return []
  } catch (error) {
    const problem = error instanceof TemplateFailure ? error.problem : undefined
    const message = problem?.message ?? (error instanceof Error ? error.message : String(error))
    return [
      { method: 'GET', path: settings.error, status: 500, message, file: problem?.file, line: problem?.line },
    ]
  }
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

let opened: { url: string; database: Promise<DataSource> } | undefined

/** Returns a connection of its own: what readers use is not shared with trials. */
async function databaseAt(url: string): Promise<DataSource> {
  if (opened?.url !== url) {
    void opened?.database.then((one) => one.destroy()).catch(() => undefined)
    opened = { url, database: makeDataSource(url, { connections: 2 }).initialize() }
  }
  try {
    return await opened.database
  } catch (error) {
    opened = undefined
    throw error
  }
}

/** The latest sites: the definition in force is that of the save before. */
const sites: { documents: string; site: Site | undefined }[] = []

function siteOf(database: DataSource, documents: Documents): Site | undefined {
  const key = JSON.stringify([...documents].sort(([a], [b]) => (a < b ? -1 : 1)))
  const known = sites.find((one) => one.documents === key)
  if (known) return known.site
  const built = buildSite(database, documents)
  sites.unshift({ documents: key, site: built.ok ? built.value : undefined })
  sites.length = Math.min(sites.length, 3)
  return sites[0]?.site
}

post({ id: 0, kind: 'ready' })
