/** The places of a page that differ between readers, and their placeholders while a page is rendered for all readers. */
import { randomBytes } from 'node:crypto'
import { escapeHtml, Placeholder } from '../../../core/content/html/safe-html.ts'

/** The token of the form, and what the form is filled in with for a reader who is remembered. */
export const PLACES = ['token', 'name', 'email', 'site'] as const
export type Place = (typeof PLACES)[number]
/** What is remembered of a reader. */
export const REMEMBERED_PLACES = ['name', 'email', 'site'] as const

/** How often each is read, or printed. */
export type PlaceCounts = Record<Place, number>
export const noPlaces = (): PlaceCounts => ({ token: 0, name: 0, email: 0, site: 0 })

/** No value that is remembered is as long, in characters. */
const LONGER = 600

/**
 * Returns a mark that nobody can guess. A filter after a `capture` still sees it: it is long, and has characters that
 * encoding, cutting and another case change.
 */
const markOf = (place: Place): string =>
  escapeHtml(`${place} <"Zz&'> ${randomBytes(18).toString('hex')} ${'é x'.repeat(LONGER / 3)}`)

const MARKS = new Map(PLACES.map((one) => [markOf(one), one]))

/** Stands for each place while a page is rendered for all readers. */
export const PLACEHOLDER = Object.fromEntries(
  [...MARKS].map(([mark, place]) => [place, new Placeholder(mark)]),
) as Record<Place, Placeholder>

// No character of a mark has a meaning in an expression.
const ANY = new RegExp([...MARKS.keys()].join('|'), 'g')

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
    const place = MARKS.get(text) ?? 'token'
    cut.content.push(html.slice(from, index))
    cut.places.push(place)
    cut.printed[place]++
    from = index + text.length
  }
  cut.content.push(html.slice(from))
  return cut
}
