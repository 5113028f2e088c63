/** Detects the language of texts (franc-min, by the trigrams of letters; Cavnar and Trenkle 1994). */
import { franc } from 'franc-min'
import { iso6393To1 } from 'iso-639-3'

/** The language is detected in parts of this length, in characters. */
const PART = 500
/** Fewer parts are not judged. */
const FEWEST = 3
/** The share of the parts that must agree. */
const MOST = 0.75
/** The share of the parts that may be in the wanted language: quotations. */
const SOME = 0.1

/** Codes of single languages that have the code of a group (ISO 639-3 macrolanguages). */
const OF_GROUP: Readonly<Record<string, string>> = {
  ...{
    arb: 'ar',
    azj: 'az',
    cmn: 'zh',
    hms: 'zh',
    npi: 'ne',
    pes: 'fa',
    plt: 'mg',
    swh: 'sw',
    uzn: 'uz',
    zlm: 'ms',
  },
}

const codeOf = (language: string): string | undefined =>
  OF_GROUP[language] ?? (iso6393To1 as Readonly<Record<string, string>>)[language]

/** Languages that are written almost alike. */
const ALIKE = [
  ['nb', 'nn', 'no', 'da', 'sv'],
  ['hr', 'sr', 'bs', 'sl'],
  ['id', 'ms', 'jv', 'su'],
  ['cs', 'sk'],
  ['pt', 'gl', 'es', 'ca'],
  ['ru', 'uk', 'be', 'bg', 'mk'],
  ['hi', 'ne', 'mr'],
  ['zh', 'ja'],
]

/**
 * Returns the language of a text if it is certainly not the wanted one; undefined if it may be, or if that cannot be told.
 * @param wanted a language tag, e.g. `en-GB` @returns e.g. `de`
 */
export function otherLanguage(text: string, wanted: string): string | undefined {
  const [own = ''] = wanted.toLowerCase().split('-')
  const parts = Array.from({ length: Math.floor(text.length / PART) }, (_, index) =>
    text.slice(index * PART, (index + 1) * PART),
  )
  if (parts.length < FEWEST) return undefined
  const times = new Map<string, number>()
  for (const part of parts) {
    const code = codeOf(franc(part))
    if (code !== undefined) times.set(code, (times.get(code) ?? 0) + 1)
  }
  const [most] = [...times].sort(([, a], [, b]) => b - a)
  if (!most || most[1] < parts.length * MOST || (times.get(own) ?? 0) > parts.length * SOME) return undefined
  const [other] = most
  const isKnown = other !== own && !ALIKE.some((group) => group.includes(other) && group.includes(own))
  return isKnown && KNOWN.has(own) ? other : undefined
}

/** The languages that franc-min tells apart, and that blogs are written in most; others may look like one of them. */
const KNOWN = new Set([
  ...[
    'en',
    'de',
    'fr',
    'es',
    'it',
    'pt',
    'nl',
    'pl',
    'ru',
    'uk',
    'ja',
    'ko',
    'zh',
    'ar',
    'fa',
    'he',
    'hi',
    'tr',
  ],
  ...['sv', 'cs', 'el', 'hu', 'ro', 'th', 'vi', 'id'],
])
