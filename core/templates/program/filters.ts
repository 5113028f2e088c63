/** The filters: ours, and liquidjs's. */
import { LRUCache } from 'lru-cache'
import { filters } from 'liquidjs'
import { ageInWords, type AgeWords } from '../../content/age.ts'
import { nextChange } from '../../content/next-change.ts'
import type { HtmlRules } from '../../content/html/allow-list.ts'
import { renderMarkdown } from '../../content/html/markdown.ts'
import { headingsOf } from '../../content/html/headings.ts'
import { Placeholder, SafeHtml } from '../../content/html/safe-html.ts'
import { offsetAt } from '../../content/times.ts'
import { plainText, readingMinutes, shorten } from '../../content/text.ts'
import { pictureElement, type BlogImage } from '../../content/images.ts'
import { describe, scriptElement } from '../../content/structured-data.ts'
import { withQuery } from '../../paging/numbered.ts'
import { AddressFailure, WordedError } from '../failure.ts'
import { TEMPLATE_PROBLEMS } from '../problems.ts'
import type { RenderServices } from '../scope.ts'

type Pair = [string, unknown]

/** What filters get as `this`. Those of liquidjs use more of it. */
export interface Filtering {
  readonly services: RenderServices
}

/** A filter. Arguments with a name are pairs. */
export type FilterFunction = (this: Filtering, value: unknown, ...given: unknown[]) => unknown

/** The filters of a definition by their names. */
export type Filters = ReadonlyMap<string, FilterFunction>

const isPair = (argument: unknown): argument is Pair => Array.isArray(argument) && argument.length === 2
const toText = (value: unknown) =>
  value instanceof SafeHtml
    ? plainText(value.html)
    : value === null || value === undefined
      ? ''
      : String(value)

/** Returns what a value is, for messages. */
const kindOf = (value: unknown): string =>
  value === null || value === undefined
    ? 'empty'
    : Array.isArray(value)
      ? 'a list'
      : typeof value === 'object'
        ? 'another row'
        : `a ${typeof value === 'string' ? 'text' : typeof value}`

/** The arguments of `picture`. */
const PICTURE_ARGUMENTS = ['sizes', 'loading', 'class', 'text']

const isImage = (value: unknown): value is BlogImage =>
  typeof value === 'object' &&
  value !== null &&
  ['name', 'width', 'height'].every((one) => Object.hasOwn(value, one)) &&
  typeof (value as BlogImage).name === 'string'

/** Formatted dates that are remembered per format: a blog prints the same few again and again, and formatting is slow. */
const REMEMBERED_DATES = 1_000
/** Formats of which dates are remembered. */
const REMEMBERED_FORMATS = 50

/** `{{ post.publishedAt | date: '%-d %B %Y' }}`: liquidjs's filter in the blog's time zone. A missing date prints nothing. */
function dateFilter(timeZone: string): FilterFunction {
  const remembered = new LRUCache<string, LRUCache<number, string>>({ max: REMEMBERED_FORMATS })
  let last: { format: string; dates: LRUCache<number, string> } | undefined
  return function (value, format) {
    if (value === null || value === undefined || value === '') return ''
    const { now, fragments } = this.services
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
    const dates = datesIn(String(format))
    const known = dates.get(instant)
    if (known !== undefined) return known
    const minutesWest = -offsetAt(instant, timeZone) / 60_000
    const made = String(liquidFilter('date').call(filtering, at, format, minutesWest))
    dates.set(instant, made)
    return made
  }
  /** A list prints all its dates in one format. */
  function datesIn(format: string): LRUCache<number, string> {
    if (last?.format === format) return last.dates
    let dates = remembered.get(format)
    if (!dates) remembered.set(format, (dates = new LRUCache({ max: REMEMBERED_DATES })))
    last = { format, dates }
    return dates
  }
}

/** Returns a filter of liquidjs. */
function liquidFilter(name: string): FilterFunction {
  const one: unknown = filters[name]
  return (typeof one === 'function' ? one : (one as { handler: unknown }).handler) as FilterFunction
}

const OURS = {
  /** `{{ "post" | url: slug: post.slug }}`: the address of a route. */
  url(this: Filtering, route: unknown, ...pairs: unknown[]) {
    const given: Record<string, unknown> = {}
    for (const pair of pairs) if (isPair(pair)) given[pair[0]] = pair[1]
    const result = this.services.url(String(route), given)
    if (!result.ok)
      throw new AddressFailure(TEMPLATE_PROBLEMS['template-address-failed'](result.problem.message))
    return result.path
  },
  /** `{{ request.path | url_with: page: 2 }}`: an address with parameters changed; the others are kept. */
  url_with(this: Filtering, path: unknown, ...pairs: unknown[]) {
    const changes = pairs
      .filter(isPair)
      .map(([name, value]) => [name, value === null || value === undefined ? null : String(value)] as const)
    const { request } = this.services
    const [own = '', query = ''] = String(path ?? request.path).split('?')
    const search = own === request.path ? request.search : new URLSearchParams(query)
    return withQuery(own, search, Object.fromEntries(changes))
  },
  /** `{{ "blog.css" | asset }}`: the address of an asset, which changes with its content. */
  asset(this: Filtering, name: unknown) {
    const address = this.services.asset(String(name))
    if (address === undefined)
      throw new WordedError(TEMPLATE_PROBLEMS['template-asset-missing'](String(name)))
    return address
  },
  /** `{{ post.excerpt | excerpt: 100 }}`: the start of a text, cut at a word. */
  excerpt: (value: unknown, limit: unknown) => shorten(toText(value), Number(limit ?? 100)),
  /** `{{ post.wordCount | reading_minutes }}`: whole minutes. */
  reading_minutes: (words: unknown) => readingMinutes(Number(words ?? 0)),
  /** `{% assign parts = post.html | headings %}`: the headings of a text, for a table of contents. */
  headings: (value: unknown) => (value instanceof SafeHtml ? headingsOf(value.html) : []),
  /** `{{ post | structured_data }}`: the post, or the blog, as JSON-LD in a script element. */
  structured_data(this: Filtering, value: unknown) {
    const description = describe(value, this.services.described)
    if (!description) throw new WordedError(TEMPLATE_PROBLEMS['template-structured-data-of'](kindOf(value)))
    return scriptElement(description)
  },
  /** `{{ post.image | picture: sizes: "100vw" }}`: an image in all its sizes. A missing image prints nothing. */
  picture(value: unknown, ...pairs: unknown[]) {
    if (value === null || value === undefined) return ''
    if (!isImage(value)) throw new WordedError(TEMPLATE_PROBLEMS['template-picture-of'](kindOf(value)))
    const given: Partial<Record<string, unknown>> = Object.fromEntries(pairs.filter(isPair))
    const unknown = Object.keys(given).find((name) => !PICTURE_ARGUMENTS.includes(name))
    if (unknown !== undefined)
      throw new WordedError(TEMPLATE_PROBLEMS['template-picture-argument'](unknown, PICTURE_ARGUMENTS))
    const { sizes = '100vw', class: name, text = value.text } = given
    return new SafeHtml(
      pictureElement(
        { ...value, text: toText(text) },
        {
          sizes: toText(sizes),
          loading: given['loading'] === 'eager' ? 'eager' : 'lazy',
          ...(name === undefined ? {} : { class: toText(name) }),
        },
      ),
    )
  },
  /** `{{ post.html | raw }}`: safe HTML as it is; anything else is refused. */
  raw(value: unknown) {
    if (value instanceof SafeHtml) return value.html
    if (value instanceof Placeholder) return value.mark
    if (value === null || value === undefined) return ''
    throw new WordedError(TEMPLATE_PROBLEMS['template-raw-not-safe']())
  },
} satisfies Record<string, FilterFunction>

/** `{{ comment.createdAt | ago }}`: the age in words. */
const agoFilter = (words: AgeWords): FilterFunction =>
  function (value) {
    if (value === null || value === undefined) return ''
    const at = value instanceof Date ? value : new Date(String(value))
    if (Number.isNaN(at.getTime())) return ''
    const { now, fragments } = this.services
    const age = (then: Date) => ageInWords(at, then, words)
    if (fragments.isRendering) fragments.limit(nextChange(now, age))
    return age(now)
  }

/**
 * Returns our filters, which come before liquidjs's of the same names.
 * @param timeZone of dates
 * @param rules of HTML that `markdown` renders
 * @param words the language of ages
 */
export function ownFilters(timeZone: string, rules: HtmlRules, words: AgeWords): Filters {
  return new Map<string, FilterFunction>([
    ...Object.entries(OURS),
    ['date', dateFilter(timeZone)],
    ['ago', agoFilter(words)],
    /** `{{ text | markdown }}`: safe HTML. It embeds nothing, since readers may have written the text. */
    ['markdown', (value) => renderMarkdown(toText(value), { rules: { ...rules, embeds: [] } })],
  ])
}

/** Returns a filter by its name: one of ours, or liquidjs's. */
export const filterNamed = (own: Filters, name: string): FilterFunction => own.get(name) ?? liquidFilter(name)
