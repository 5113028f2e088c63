/**
 * Error pages that need no data: in the template that the settings name, or plain. They are also shown when the database
 * does not respond, and when rendering has failed, so a template that fails itself gives way to the plain page.
 */
import { FragmentSession } from '../../core/caching/session.ts'
import type { MessageName, MessageValues } from '../../core/messages/say.ts'
import { RenderData } from '../../core/templates/scope.ts'
import { assetAddress, type Site } from '../publish/site.ts'
import { buildAddress } from './addresses/build-address.ts'
import { plainPage } from './plain-pages.ts'
import { PAGE_HEADERS, PLAIN_HEADERS, type BlogResponse } from './responses.ts'
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

/** Returns the page for a request that failed. @param number of the request, which readers can report */
export const failedPage = (site: Site, number: string): BlogResponse =>
  errorPage(site, {
    status: 500,
    title: 'failed-title',
    text: 'failed-text',
    values: { number },
    headers: { 'cache-control': 'no-store' },
    number,
  })

/** Returns the page for an error, in the blog's language and words. */
export function errorPage(site: Site, page: ErrorPage): BlogResponse {
  const { say, settings } = site.definition
  const texts = {
    title: say(page.title),
    text: say(page.text, page.values),
    home: say('front-page'),
    language: settings.language ?? 'en',
  }
  const html =
    settings.error === undefined ? undefined : fromTemplate(site, settings.error, { ...page, ...texts })
  return {
    status: page.status,
    headers: { ...(html === undefined ? PLAIN_HEADERS : PAGE_HEADERS), ...page.headers },
    body: html ?? plainPage(texts),
    route: null,
    fragments: [],
  }
}

interface ErrorValues {
  status: number
  title: string
  text: string
  number?: string
}

function fromTemplate(site: Site, template: string, values: ErrorValues): string | undefined {
  try {
    return renderError(site, template, values)
  } catch {
    return undefined
  }
}

/** Renders the template of error pages. @throws TemplateFailure */
export function renderError(
  site: Site,
  template: string,
  { status, title, text, number }: ErrorValues,
): string {
  const { templates, settings } = site.definition
  const now = new Date()
  const globals = {
    blog: {
      title: settings.title,
      tagline: settings.tagline ?? '',
      origin: settings.origin ?? '',
      language: settings.language ?? 'en',
    },
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
    now,
    url: (route, parameters) => buildAddress(site, route, parameters),
    asset: (name) => assetAddress(site, name),
    request: { path: '/', search: new URLSearchParams() },
    tracer: NO_TRACER,
  })
}
