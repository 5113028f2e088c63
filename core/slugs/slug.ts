/** Slugs: derived from titles, made unique, and validated. A slug has letters a–z, digits and single hyphens. */
import anyAscii from 'any-ascii'
import type { Worded } from '../shapes/catalogue.ts'
import { SLUG_PROBLEMS } from './problems.ts'

/** The maximum length of a slug, in characters, unless the settings set a lower one. The database allows a little more. */
export const SLUG_LIMIT = 80

export interface SlugRules {
  /** The maximum length, in characters. */
  maximum: number
  /** Slugs that nothing may use. */
  reserved: ReadonlySet<string>
}
export const DEFAULT_SLUG_RULES: SlugRules = { maximum: SLUG_LIMIT, reserved: new Set() }

/**
 * Derives a slug from a title. Returns an empty text if the title has no letters or digits.
 *
 * `any-ascii` transliterates every script without regard to language: ö is o, ß is ss, Привет is privet, 東京 is dongjing.
 * Apostrophes are removed, and so are symbols and emoji. Everything else that is not a letter or a digit separates words.
 *
 * Only letters that are written are transliterated. Vowels that a script leaves out stay out, because adding them takes
 * knowledge of the language: the short vowels of Arabic and Hebrew (مرحبا is mrhba), and the inherent vowel of Indic
 * consonants (नमस्ते is nmste). Authors can type another slug.
 */
export function slugOf(title: string, maximum = SLUG_LIMIT): string {
  const words = anyAscii(title.normalize('NFKC').replace(/\p{Extended_Pictographic}|\u200d|\ufe0f/gu, ' '))
    .toLowerCase()
    .replace(/['`]/g, '')
    .split(/[^a-z0-9]+/)
    .filter((word) => word !== '')
  let slug = ''
  for (const word of words) {
    const longer = slug === '' ? word.slice(0, maximum) : `${slug}-${word}`
    if (longer.length > maximum) break
    slug = longer
  }
  return slug
}

/** Appends a number to a slug, within the maximum length: `moth-2`. Words are left out as a whole to make room for it. */
export function numbered(slug: string, number: number, maximum: number): string {
  const suffix = `-${number}`
  return slugOf(slug, maximum - suffix.length) + suffix
}

/**
 * Returns the slug if it is free, or the first free one of `slug-2`, `slug-3` and so on.
 * @param isTaken returns true for slugs that are in use or reserved
 */
export function freeSlug(slug: string, isTaken: (slug: string) => boolean, maximum = SLUG_LIMIT): string {
  if (!isTaken(slug)) return slug
  for (let number = 2; ; number++) {
    const candidate = numbered(slug, number, maximum)
    if (!isTaken(candidate)) return candidate
  }
}

/** Returns the problem of a slug as text, or undefined if it is valid. */
export function slugProblem(slug: string, { maximum, reserved }: SlugRules): Worded | undefined {
  if (slug === '') return SLUG_PROBLEMS['slug-empty']()
  const wrong = /[^a-z0-9-]/u.exec(slug)?.[0]
  if (wrong !== undefined) {
    const isControl = /\p{C}/u.test(wrong)
    const code = (wrong.codePointAt(0) ?? 0).toString(16).toUpperCase().padStart(4, '0')
    return SLUG_PROBLEMS['slug-character'](isControl ? `the character U+${code}` : `“${wrong}”`)
  }
  if (/^-|-$|--/.test(slug)) return SLUG_PROBLEMS['slug-hyphens']()
  if (slug.length > maximum) return SLUG_PROBLEMS['slug-too-long'](slug.length, maximum)
  return reserved.has(slug) ? SLUG_PROBLEMS['slug-reserved'](slug) : undefined
}
