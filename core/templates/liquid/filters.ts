/** Our filters, in addition to liquidjs's. */
import { LRUCache } from 'lru-cache'
import { filters, type Context, type Liquid } from 'liquidjs'
import { ageInWords, type AgeWords } from '../../content/age.ts'
import { nextChange } from '../../content/next-change.ts'
import type { HtmlRules } from '../../content/html/allow-list.ts'
import { renderMarkdown } from '../../content/html/markdown.ts'
import { escapeHtml, Placeholder, SafeHtml } from '../../content/html/safe-html.ts'
import { offsetAt } from '../../content/times.ts'
import { plainText, readingMinutes, shorten } from '../../content/text.ts'
import { withQuery } from '../../paging/numbered.ts'
import { AddressFailure, WordedError } from '../failure.ts'
import { TEMPLATE_PROBLEMS } from '../problems.ts'
import { servicesOf } from './services.ts'

type Pair = [string, unknown]
interface Filtering {
  context: Context
}

/** Returns a value as it is printed: text is escaped, safe HTML is not, a row prints nothing. */
export function printed(value: unknown): string {
  if (typeof value === 'string') return escapeHtml(value)
  if (value === null || value === undefined) return ''
  if (value instanceof SafeHtml) return value.html
  if (value instanceof Placeholder) return value.mark
  if (value instanceof Date) return value.toISOString()
  if (Array.isArray(value)) return value.map(printed).join('')
  return typeof value === 'object' || typeof value === 'function' ? '' : escapeHtml(String(value))
}

const isPair = (argument: unknown): argument is Pair => Array.isArray(argument) && argument.length === 2
const toText = (value: unknown) =>
  value instanceof SafeHtml
    ? plainText(value.html)
    : value === null || value === undefined
      ? ''
      : String(value)

/** Formatted dates that are remembered: a blog prints the same few again and again, and formatting is slow. */
const REMEMBERED_DATES = 5_000

/** `{{ post.publishedAt | date: '%-d %B %Y' }}`: liquidjs's filter in the blog's time zone. A missing date prints nothing. */
function dateFilter(timeZone: string) {
  const remembered = new LRUCache<string, string>({ max: REMEMBERED_DATES })
  return function (this: Filtering, value: unknown, format: unknown): unknown {
    if (value === null || value === undefined || value === '') return ''
    const { now, fragments } = servicesOf(this.context)
    const isNow = value === 'now' || value === 'today' || value === now
    const at = isNow ? now : value instanceof Date ? value : new Date(String(value))
    const instant = at.getTime()
    if (Number.isNaN(instant)) return value
    // A fragment that prints the time is right until another text would be printed.
    if (isNow && fragments.isRendering) fragments.limit(nextChange(now, (then) => print(this, then, format)))
    return print(this, at, format)
  }
  function print(filtering: Filtering, at: Date, format: unknown): string {
    const instant = at.getTime()
    const key = `${instant} ${String(format)}`
    const known = remembered.get(key)
    if (known !== undefined) return known
    const minutesWest = -offsetAt(instant, timeZone) / 60_000
    const made = String(
      (filters['date'] as (this: unknown, ...words: unknown[]) => unknown).call(
        filtering,
        at,
        format,
        minutesWest,
      ),
    )
    remembered.set(key, made)
    return made
  }
}

export function registerFilters(engine: Liquid, timeZone: string, rules: HtmlRules, words: AgeWords): void {
  engine.registerFilter('date', dateFilter(timeZone))
  /** `{{ "post" | url: slug: post.slug }}`: the address of a route. */
  engine.registerFilter('url', function (this: Filtering, route: unknown, ...pairs: unknown[]) {
    const result = servicesOf(this.context).url(String(route), Object.fromEntries(pairs.filter(isPair)))
    if (!result.ok)
      throw new AddressFailure(TEMPLATE_PROBLEMS['template-address-failed'](result.problem.message))
    return result.path
  })
  /** `{{ request.path | url_with: page: 2 }}`: an address with parameters changed; the others are kept. */
  engine.registerFilter('url_with', function (this: Filtering, path: unknown, ...pairs: unknown[]) {
    const changes = pairs
      .filter(isPair)
      .map(([name, value]) => [name, value === null || value === undefined ? null : String(value)] as const)
    const { request } = servicesOf(this.context)
    const [own = '', query = ''] = String(path ?? request.path).split('?')
    const search = own === request.path ? request.search : new URLSearchParams(query)
    return withQuery(own, search, Object.fromEntries(changes))
  })
  /** `{{ "blog.css" | asset }}`: the address of an asset, which changes with its content. */
  engine.registerFilter('asset', function (this: Filtering, name: unknown) {
    const address = servicesOf(this.context).asset(String(name))
    if (address === undefined)
      throw new WordedError(TEMPLATE_PROBLEMS['template-asset-missing'](String(name)))
    return address
  })
  /** `{{ post.excerpt | excerpt: 100 }}`: the start of a text, cut at a word. */
  engine.registerFilter('excerpt', (value: unknown, limit: unknown) =>
    shorten(toText(value), Number(limit ?? 100)),
  )
  /** `{{ comment.createdAt | ago }}`: the age in words. */
  engine.registerFilter('ago', function (this: Filtering, value: unknown) {
    if (value === null || value === undefined) return ''
    const at = value instanceof Date ? value : new Date(String(value))
    if (Number.isNaN(at.getTime())) return ''
    const { now, fragments } = servicesOf(this.context)
    const age = (then: Date) => ageInWords(at, then, words)
    if (fragments.isRendering) fragments.limit(nextChange(now, age))
    return age(now)
  })
  /** `{{ post.wordCount | reading_minutes }}`: whole minutes. */
  engine.registerFilter('reading_minutes', (words: unknown) => readingMinutes(Number(words ?? 0)))
  /** `{{ text | markdown }}`: safe HTML. */
  engine.registerFilter('markdown', (value: unknown) => renderMarkdown(toText(value), { rules }))
  /** `{{ post.html | raw }}`: safe HTML as it is; anything else is refused. */
  engine.registerFilter('raw', {
    raw: true,
    handler: (value: unknown) => {
      if (value instanceof SafeHtml) return value.html
      if (value instanceof Placeholder) return value.mark
      if (value === null || value === undefined) return ''
      throw new WordedError(TEMPLATE_PROBLEMS['template-raw-not-safe']())
    },
  })
}
