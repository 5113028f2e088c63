/** Gives texts to readers, in the blog's language and with its own wording. */
import { TEXTS, type MessageName } from './texts.ts'

export type { MessageName } from './texts.ts'
export type OwnMessages = Readonly<Partial<Record<MessageName, string>>>
export type MessageValues = Readonly<Record<string, string | number>>
export type Say = (name: MessageName, values?: MessageValues) => string

const PLACEHOLDER = /\{([a-z]+)\}/g

/** Returns true for the name of a message. */
export const isMessageName = (name: string): name is MessageName => Object.hasOwn(TEXTS['en'] ?? {}, name)

/** Returns the names of the values in a text, e.g. `maximum`. */
export const placeholders = (text: string): string[] =>
  [...text.matchAll(PLACEHOLDER)].map(([, name = '']) => name)

/** Returns the values that a message can have. */
export const valuesOf = (name: MessageName): string[] => placeholders(TEXTS['en']?.[name] ?? '')

/** Returns e.g. “maintenant”. */
const nowIn = (language: string): string =>
  new Intl.RelativeTimeFormat(language, { numeric: 'auto' }).format(0, 'second')

/**
 * Returns a function that gives a message. A language that does not ship has English texts, and Intl's word for now.
 * @param language a BCP 47 tag
 * @param own replaces standard texts
 */
export function sayIn(language = 'en', own: OwnMessages = {}): Say {
  const shipped = TEXTS[language.toLowerCase().split('-')[0] ?? ''] ?? { 'just-now': nowIn(language) }
  const texts = { ...TEXTS['en'], ...shipped, ...own }
  return (name, values = {}) =>
    (texts[name] ?? '').replace(PLACEHOLDER, (part, value: string) => String(values[value] ?? part))
}
