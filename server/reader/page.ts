/** One page in the making: loads the route's data and renders its template. */
import { FragmentSession, type FragmentOutcome } from '../../core/caching/session.ts'
import { DataNeeded } from '../../core/templates/scope.ts'
import { Ended, NEAREST, PageData, type Ending, type PageRequest, type RouteInForce } from './page-data.ts'
import { assetAddress, NAVIGATION } from '../publish/site.ts'

export type PageResult = { outcome: 'page'; html: string } | Ending

/** Renderings of one page at most; each new one was caused by data that the one before asked for. */
const ROUNDS = 25

export class PageRendering {
  readonly #page: PageRequest
  readonly #route: RouteInForce
  readonly #data: PageData
  readonly #session: FragmentSession

  constructor(page: PageRequest, route: RouteInForce) {
    this.#page = page
    this.#route = route
    this.#data = new PageData(page, route)
    const { blog, site } = page
    this.#session = new FragmentSession(
      this.#bypasses ? undefined : blog.fragments,
      site.version,
      blog.clock().getTime(),
    )
  }

  /** Nothing is taken from the store or put there: an author may see what readers must not. */
  get #bypasses(): boolean {
    return this.#page.as === 'author' || !this.#page.blog.keepsFragments
  }

  get fragments(): readonly FragmentOutcome[] {
    return this.#session.outcomes
  }

  /** The value of one name of the route's data: what an action needs to know. */
  async value(name: string): Promise<{ outcome: 'value'; value: unknown } | Ending> {
    try {
      await this.#data.load([name])
      const { value } = this.#data.loaded.get(name)
      return value === null ? { outcome: 'not-found' } : { outcome: 'value', value }
    } catch (error) {
      if (error instanceof Ended) return error.ending
      throw error
    }
  }

  async run(template: string): Promise<PageResult> {
    const { all, eager } = this.#page.site.definition.templates.reads(template)
    try {
      // First what decides whether the page exists at all, then what it reads outside kept parts.
      await this.#data.load(this.#data.deciding)
      await this.#data.load(this.#firstNeeded(this.#bypasses ? all : eager))
      const html = await this.#render(template)
      this.#finishNotes(template, all)
      return { outcome: 'page', html }
    } catch (error) {
      if (error instanceof Ended) return error.ending
      this.#finishNotes(template, all, 'not run: the request failed before it was needed')
      throw error
    }
  }

  #firstNeeded(read: ReadonlySet<string>): string[] {
    return [...Object.keys(this.#data.entries), NAVIGATION, NEAREST].filter((name) => read.has(name))
  }

  #finishNotes(template: string, read: ReadonlySet<string>, failed?: string): void {
    const { notes } = this.#data
    if (!notes) return
    const names = [...Object.keys(this.#data.entries), NAVIGATION]
    const others = names
      .filter((name) => !this.#data.wasAsked(name))
      .map((name) => ({ name, query: this.#data.queryOf(name) }))
    notes.finish(names, others, read, failed)
    const { templates } = this.#page.site.definition
    notes.readBy(templates.fieldReads(template, Object.keys(this.#data.entries)))
  }

  async #render(template: string): Promise<string> {
    const { blog, site, walk } = this.#page
    const { templates } = site.definition
    for (let round = 0; round < ROUNDS; round++) {
      const start = performance.now()
      const trace = walk?.beginRendering(template)
      try {
        const html = templates.render(template, Object.keys(this.#data.entries), this.#globals(), {
          data: this.#data.loaded,
          fragments: this.#session,
          now: blog.clock(),
          url: (route, parameters) => blog.addressOf(site, route, parameters),
          asset: (name) => assetAddress(site, name),
          request: { path: this.#data.shownPath, query: this.#page.query },
          ...(trace ? { trace } : {}),
        })
        walk?.endRendering()
        this.#session.commit(this.#session.needsDueTime ? await blog.nextDue() : Infinity)
        return html
      } catch (error) {
        if (!(error instanceof DataNeeded)) throw error
        if (this.#data.notes) this.#data.notes.late = 'run late: a kept part that reads it had to be made'
        await this.#data.load(error.names)
        this.#session.restart()
      } finally {
        if (walk) walk.record.templates.milliseconds += performance.now() - start
      }
    }
    throw new Error('the page asked for data again and again')
  }

  #globals(): object {
    const { blog, site, id, query, as, form } = this.#page
    const path = this.#data.shownPath
    const { settings } = site.definition
    const data = this.#data
    return {
      blog: {
        title: settings.title,
        tagline: settings.tagline ?? '',
        origin: settings.origin ?? '',
        language: settings.language ?? 'en',
      },
      request: {
        path,
        query,
        url: query === '' ? path : `${path}?${query}`,
        route: this.#route.route.name,
        params: data.parameters,
        /** The one address of this page; with the blog's origin, where the settings say one. */
        get canonical() {
          return `${settings.origin ?? ''}${data.canonical}`
        },
      },
      heading: this.#route.route.heading ?? '',
      visitor: { isAuthor: as === 'author' },
      form: { values: form?.values ?? { name: '', text: '' }, errors: form?.errors ?? {}, once: id },
      now: blog.clock(),
      get navigation() {
        return data.loaded.get(NAVIGATION).value
      },
      get nearest() {
        return data.loaded.get(NEAREST).value
      },
    }
  }
}
