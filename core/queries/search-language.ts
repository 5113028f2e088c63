/** Maps a blog's language to a text search configuration of PostgreSQL (manual, chapter “Full Text Search”). */

/** Language subtag (RFC 5646) → configuration built into PostgreSQL 15. */
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

/** Returns the configuration for a language. Words of other languages are searched without stemming. */
export const searchConfiguration = (language: string | undefined): string => {
  const subtag = (language ?? 'en').toLowerCase().split('-')[0] ?? ''
  return Object.hasOwn(CONFIGURATIONS, subtag) ? (CONFIGURATIONS[subtag] ?? 'simple') : 'simple'
}
