/** The choices of a blog's address policy: letter case and trailing slash of canonical addresses. */

export const LETTER_CASES = ['lower', 'keep'] as const
export type LetterCase = (typeof LETTER_CASES)[number]

export const TRAILING_SLASHES = ['without', 'with'] as const
export type TrailingSlash = (typeof TRAILING_SLASHES)[number]
