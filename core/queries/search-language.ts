/** Which of PostgreSQL's text search configurations reads a blog's language (its manual, chapter “Full Text Search”). */

/** Language subtag (RFC 5646) → configuration that PostgreSQL 15 has built in. */
const CONFIGURATIONS: Readonly<Record<string, string>> = {
  ar: 'arabic',
  ca: 'catalan',
  da: 'danish',
  de: 'german',
  el: 'greek',
  en: 'english',
  es: 'spanish',
  eu: 'basque',
  fi: 'finnish',
  fr: 'french',
  ga: 'irish',
  hi: 'hindi',
  hu: 'hungarian',
  hy: 'armenian',
  id: 'indonesian',
  it: 'italian',
  lt: 'lithuanian',
  nb: 'norwegian',
  ne: 'nepali',
  nl: 'dutch',
  nn: 'norwegian',
  no: 'norwegian',
  pt: 'portuguese',
  ro: 'romanian',
  ru: 'russian',
  sr: 'serbian',
  sv: 'swedish',
  ta: 'tamil',
  tr: 'turkish',
  yi: 'yiddish',
}

/** Words of other languages are found as they are written. */
export const searchConfiguration = (language: string | undefined): string => {
  const subtag = (language ?? 'en').toLowerCase().split('-')[0] ?? ''
  return Object.hasOwn(CONFIGURATIONS, subtag) ? (CONFIGURATIONS[subtag] ?? 'simple') : 'simple'
}
