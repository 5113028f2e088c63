/** Cleans what readers write: what could disturb the page, or pass for something else, is neutralised. */

/** Control characters except the line feed and the tab (Unicode general category Cc). */
const CONTROL = /[\p{Cc}--[\n\t]]/gv
/** Embeddings, overrides and isolates, which reorder the text around them (UAX #9 §2). Marks such as U+200F remain. */
const BIDI = /[\u202A-\u202E\u2066-\u2069]/g
/** Marks beyond the fifth on one character cover the lines above and below. No writing system needs more. */
const STACK = /(\p{M}{5})\p{M}+/gu
/** Characters that are drawn as nothing: default-ignorable ones, the blank Braille pattern, and white space. */
const UNSEEN = /[\p{Default_Ignorable_Code_Point}\u2800\s]/gu

/** Returns the text in NFC without characters that disturb a page. Line ends are line feeds. */
const neutral = (text: string): string =>
  text
    .toWellFormed()
    .replace(/\r\n?/g, '\n')
    .replace(CONTROL, '')
    .replace(BIDI, '')
    .normalize('NFC')
    .replace(STACK, '$1')

/** Whether anything of a text is visible. */
export const isBlank = (text: string): boolean => text.replace(UNSEEN, '') === ''

/** Cleans a single line, such as a name. A text of which nothing would be visible becomes empty. */
export function cleanLine(text: string): string {
  const line = neutral(text).replace(/\s+/g, ' ').trim()
  return isBlank(line) ? '' : line
}

/** Cleans a text of several lines. */
export function cleanText(text: string): string {
  const clean = neutral(text)
    .replace(/\n{3,}/g, '\n\n')
    .replace(/^\n+/, '')
    .trimEnd()
  return isBlank(clean) ? '' : clean
}

/** Returns what two texts have in common if they look the same: letter case, width and unseen characters do not count. */
export const foldedText = (text: string): string =>
  text.normalize('NFKC').toLowerCase().replace(UNSEEN, '').normalize('NFC')
