/** From a title to a slug: letters a–z, digits and single hyphens, cut at a word; and what may be a slug at all. */
import anyAscii from 'any-ascii'

/** Longest slug in characters, unless the settings say less; the database's own limit is a little higher. */
export const SLUG_LIMIT = 80

export interface SlugRules {
  /** Longest slug made from a title, in characters. */
  maximum: number
  /** Slugs that nothing may have. */
  reserved: ReadonlySet<string>
}
export const DEFAULT_SLUG_RULES: SlugRules = { maximum: SLUG_LIMIT, reserved: new Set() }

/**
 * A slug for a title, or an empty text when nothing of it can be written in a–z and 0–9 (the caller then asks for one).
 *
 * Letters of every script are written in ASCII by `any-ascii`, without regard to language: ö is o, ß is ss, Привет is
 * privet, 東京 is dongjing. Apostrophes join what they stand between; symbols and emoji are left out; everything else
 * that is no letter or digit parts words.
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

/** A slug with a number behind it, the whole no longer than allowed: `moth-2`. */
export function numbered(slug: string, number: number, maximum: number): string {
  const suffix = `-${number}`
  return slug.slice(0, maximum - suffix.length).replace(/-+$/, '') + suffix
}

/**
 * The slug itself if it is free, else the first of `slug-2`, `slug-3` … that is.
 * @param isTaken true for slugs that are taken or reserved
 */
export function freeSlug(slug: string, isTaken: (slug: string) => boolean, maximum = SLUG_LIMIT): string {
  if (!isTaken(slug)) return slug
  for (let number = 2; ; number++) {
    const candidate = numbered(slug, number, maximum)
    if (!isTaken(candidate)) return candidate
  }
}

/** What is wrong with a slug as text, as a sentence; undefined when nothing is. */
export function slugFault(slug: string, { maximum, reserved }: SlugRules): string | undefined {
  if (slug === '') return 'the slug is empty'
  const wrong = /[^a-z0-9-]/u.exec(slug)?.[0]
  if (wrong !== undefined) {
    const shown = /\p{C}/u.test(wrong)
      ? `the character U+${(wrong.codePointAt(0) ?? 0).toString(16).toUpperCase().padStart(4, '0')}`
      : `“${wrong}”`
    return `a slug has lower-case letters a–z, digits and hyphens, not ${shown}`
  }
  if (/^-|-$|--/.test(slug)) return 'hyphens stand one at a time between letters and digits'
  if (slug.length > maximum) return `a slug has up to ${maximum} characters; this one has ${slug.length}`
  if (reserved.has(slug)) return `“${slug}” is reserved in the settings`
  return undefined
}
