/** The places of a page that differ between readers: what stands for them while a page is rendered for all readers. */
import { randomBytes } from 'node:crypto'
import { escapeHtml } from '../../../core/content/html/safe-html.ts'

/** The token of the form, and what the form is filled in with for a reader who is remembered. */
export const PLACES = ['token', 'name', 'email', 'site'] as const
export type Place = (typeof PLACES)[number]
/** What is remembered of a reader. */
export const REMEMBERED_PLACES = ['name', 'email', 'site'] as const

/** How often each is read, or printed. */
export type PlaceCounts = Record<Place, number>
export const noPlaces = (): PlaceCounts => ({ token: 0, name: 0, email: 0, site: 0 })

/**
 * Returns a text that nobody can guess. Whatever a template does with it other than to print it escaped, such as cutting it,
 * encoding it or changing its case, shows: it is long, and has characters that every way of encoding changes.
 */
function standIn(place: Place): string {
  const secret = randomBytes(18).toString('hex')
  // The token is read by programs, too: it has letters and digits only.
  return place === 'token' ? `token-${secret}` : `${place} <"Zz&'> ${secret} ${'é x'.repeat(100)}`
}

/** Stands for what is filled in. */
export const STAND_IN = Object.fromEntries(PLACES.map((one) => [one, standIn(one)])) as Record<Place, string>

/** What is printed for it. */
const PRINTED = new Map(PLACES.map((one) => [escapeHtml(STAND_IN[one]), one]))
// None of their characters means anything in an expression.
const ANY = new RegExp([...PRINTED.keys()].join('|'), 'g')

export interface CutText {
  /** The text around the places. */
  content: string[]
  /** The places, in their order: one fewer. */
  places: Place[]
  printed: PlaceCounts
}

/** Cuts a page that was rendered for all readers at its places. */
export function cutAtPlaces(html: string): CutText {
  const cut: CutText = { content: [], places: [], printed: noPlaces() }
  let from = 0
  for (const { 0: text, index } of html.matchAll(ANY)) {
    const place = PRINTED.get(text) ?? 'token'
    cut.content.push(html.slice(from, index))
    cut.places.push(place)
    cut.printed[place]++
    from = index + text.length
  }
  cut.content.push(html.slice(from))
  return cut
}
