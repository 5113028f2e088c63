/** liquidjs as it renders by itself, with our filters and tags: the reference for how templates are rendered. */
import { CaptureTag, Liquid, type Context, type Emitter, type Template } from 'liquidjs'
import { SafeHtml } from '../content/html/safe-html.ts'
import { parsed } from '../templates/liquid/engine.ts'
import { FragmentTag } from '../templates/liquid/fragment-tag.ts'
import type { Filters } from '../templates/program/filters.ts'
import { printed } from '../templates/program/values.ts'
import type { RenderServices } from '../templates/scope.ts'

/** What a filter of liquidjs gets as `this`. */
interface LiquidFiltering {
  context: Context
}

/** Renders fragments as if they were not there. */
class PlainFragment extends FragmentTag {
  override *render(context?: Context, emitter?: Emitter): Generator<unknown, void, unknown> {
    if (context && emitter)
      yield this.liquid.renderer.renderTemplates([...this.body] as Template[], context, emitter)
  }
}

/** What was captured is escaped already. */
class SafeCapture extends CaptureTag {
  override *render(context: Context): Generator<unknown, void, string> {
    yield super.render(context)
    const bottom = context.bottom() as Record<string, unknown>
    bottom[this.variable] = new SafeHtml(String(bottom[this.variable] ?? ''))
  }
}

/**
 * Returns a function that renders a page.
 * @param filters ours
 * @param locale of dates
 */
export function referenceEngine(sources: ReadonlyMap<string, string>, filters: Filters, locale = 'en-US') {
  const known = new Map<string, Template[]>()
  /** Lines that hold only tags are dropped before liquidjs sees them. */
  const read = (key: string): Template[] => {
    const name = key.replace(/^\w+:/, '')
    let templates = known.get(name)
    if (!templates) known.set(name, (templates = parsed(engine, sources.get(name) ?? '', name)))
    return templates
  }
  const engine: Liquid = new Liquid({
    templates: Object.fromEntries(sources),
    cache: { read, write: () => undefined, remove: () => undefined },
    extname: '',
    relativeReference: false,
    locale,
    strictFilters: true,
    ownPropertyOnly: true,
    outputEscape: printed,
  })
  let services: RenderServices
  for (const [name, filter] of filters)
    engine.registerFilter(name, {
      raw: name === 'raw',
      handler(this: LiquidFiltering, ...words: [unknown, ...unknown[]]) {
        return filter.call({ ...this, services } as never, ...words)
      },
    })
  engine.registerTag('fragment', PlainFragment)
  engine.registerTag('capture', SafeCapture)
  return (page: string, data: object, globals: object, given: RenderServices): string => {
    services = given
    return String(engine.renderFileSync(page, data, { globals }))
  }
}
