/** What templates see, as JSON: times as ISO 8601 in UTC, safe HTML as text, links to other pages without the window of page links. */
import { SafeHtml } from '../content/html/safe-html.ts'

export type Json = string | number | boolean | null | Json[] | { [key: string]: Json }

function toJson(value: unknown): Json {
  if (value === null || value === undefined) return null
  if (typeof value === 'string' || typeof value === 'boolean') return value
  if (typeof value === 'number') return Number.isFinite(value) ? value : null
  if (value instanceof Date) return value.toISOString()
  if (value instanceof SafeHtml) return value.html
  if (Array.isArray(value)) return value.map(toJson)
  if (typeof value !== 'object') return null
  return Object.fromEntries(Object.entries(value).map(([key, one]) => [key, toJson(one)]))
}

/** A page of a listing; `pages` is a window of links for readers, and programs have `next`. */
export function resultJson(value: unknown): Json {
  if (typeof value !== 'object' || value === null || !('by' in value) || !('items' in value))
    return toJson(value)
  return toJson(Object.fromEntries(Object.entries(value).filter(([key]) => key !== 'pages')))
}

/** Links to other pages of a listing (RFC 8288; relations of the IANA registry). */
export function pageLinks(value: unknown): { rel: 'first' | 'prev' | 'next' | 'last'; url: string }[] {
  if (typeof value !== 'object' || value === null || !('by' in value)) return []
  const page = value as Record<string, { url: string } | null | undefined>
  const link = (rel: 'first' | 'prev' | 'next' | 'last', key: string) => {
    const url = page[key]?.url
    return url === undefined ? [] : [{ rel, url }]
  }
  return [
    ...link('first', 'first'),
    ...link('prev', 'previous'),
    ...link('next', 'next'),
    ...link('last', 'last'),
  ]
}
