/**
 * Error pages that need no data: in the template that the settings name, or plain. They are also shown when the database
 * does not respond, and when rendering has failed, so a template that fails itself gives way to the plain page.
 */
import { FragmentSession } from '../../core/caching/session.ts'
import type { MessageName, MessageValues } from '../../core/messages/say.ts'
import { RenderData } from '../../core/templates/scope.ts'
import { TemplateFailure } from '../../core/templates/failure.ts'
import type { LogPort } from '../publish/ports.ts'
import { assetAddress, type Site } from '../publish/site.ts'
import { blogValues } from './blog-values.ts'
import { buildAddress } from './addresses/build-address.ts'
import { plainPage } from './plain-pages.ts'
import { pageHeaders, PLAIN_HEADERS, type BlogResponse } from './responses.ts'
import { threadTime } from './thread-time.ts'
import { NO_TRACER } from './tracer.ts'

export interface ErrorPage {
  status: number
  title: MessageName
  text: MessageName
  values?: MessageValues
  headers?: Record<string, string>
  /** Identifies the request. */
  number?: string
}

/** The page for a database that does not respond. */
export const UNAVAILABLE = {
  status: 503,
  title: 'unavailable-title',
  text: 'unavailable-text',
  headers: { 'retry-after': '5' },
} as const satisfies ErrorPage

/** What an error page is made with. */
export type ErrorPorts = { readonly site: Site } & LogPort

/** Returns the page for a request that failed. @param number of the request, which readers can report */
export const failedPage = (ports: ErrorPorts, number: string): BlogResponse =>
  errorPage(ports, {
    status: 500,
    title: 'failed-title',
    text: 'failed-text',
    values: { number },
    headers: { 'cache-control': 'no-store' },
    number,
  })

/** Returns the page for an error, in the blog's language and words. */
export function errorPage(ports: ErrorPorts, page: ErrorPage): BlogResponse {
  const { say, settings } = ports.site.definition
  const texts = {
    title: say(page.title),
    text: say(page.text, page.values),
    home: say('front-page'),
    language: settings.language ?? 'en',
  }
  const html = fromTemplate(ports, { ...page, ...texts })
  return {
    status: page.status,
    headers: {
      ...(html === undefined ? PLAIN_HEADERS : pageHeaders(ports.site.definition)),
      ...page.headers,
    },
    body: html ?? plainPage(texts),
    route: null,
    fragments: [],
  }
}

/** Definitions whose template has failed. It is not rendered again, since failing can take long. */
const failing = new WeakSet<Site>()

function fromTemplate({ site, log }: ErrorPorts, values: ErrorValues): string | undefined {
  const { error: template } = site.definition.settings
  if (template === undefined || failing.has(site)) return undefined
  try {
    return renderError(site, template, values)
  } catch (error) {
    failing.add(site)
    log.error({ template, error: reasonOf(error) }, 'the template of error pages failed')
    return undefined
  }
}

/** Renders the template of error pages for an example. @returns why it fails; undefined if it does not, or there is none */
export function errorTemplateFailure(
  site: Site,
): { message: string; file: string | undefined; line: number | undefined } | undefined {
  const { settings, say } = site.definition
  if (settings.error === undefined) return undefined
  try {
    renderError(site, settings.error, { status: 500, title: say('failed-title'), text: say('failed-text') })
    return undefined
  } catch (error) {
    const problem = error instanceof TemplateFailure ? error.problem : undefined
    return { message: reasonOf(error), file: problem?.file, line: problem?.line }
  }
}

const reasonOf = (error: unknown): string =>
  error instanceof TemplateFailure
    ? error.problem.message
    : error instanceof Error
      ? error.message
      : String(error)

interface ErrorValues {
  status: number
  title: string
  text: string
  number?: string
}

/** Renders the template of error pages. @throws TemplateFailure */
function renderError(site: Site, template: string, { status, title, text, number }: ErrorValues): string {
  const { templates, settings } = site.definition
  const now = new Date()
  const globals = {
    blog: blogValues(settings),
    error: { status, title, text, number: number ?? '' },
    request: { path: '/', query: '', url: '/', route: 'error', params: {}, canonical: '' },
    heading: title,
    visitor: { isAuthor: false },
    now,
  }
  return templates.render(template, [], globals, {
    data: new RenderData([], () => ''),
    definition: site.parts,
    fragments: new FragmentSession(undefined, now.getTime()),
    refreshOf: () => 'on-change',
    now,
    url: (route, parameters) => buildAddress(site, route, parameters),
    asset: (name) => assetAddress(site, name),
    described: { blog: blogValues(site.definition.settings), addressOf: () => undefined },
    processorTime: threadTime,
    request: { path: '/', search: new URLSearchParams() },
    tracer: NO_TRACER,
  })
}
