/** Takes out of templates what is not markup. */

/** Outputs and tags of a template. */
export const COMPUTED = /\{\{.*?\}\}|\{%.*?%\}/gs

/** Returns a text of the same length and with the same lines, of spaces. */
export const spaces = (text: string) => text.replace(/[^\n]/g, ' ')

/**
 * Replaces parts of a template with spaces, so that offsets stay the same.
 * @param starts matches the starts of comments and elements; the first group is the name of the element
 */
export function withoutApart(text: string, starts: RegExp): string {
  const lower = text.toLowerCase()
  let result = ''
  let at = 0
  for (const { 0: start, 1: element, index } of text.matchAll(starts)) {
    if (index < at) continue
    const close = element === undefined ? '-->' : `</${element.toLowerCase()}>`
    const found = lower.indexOf(close, index + start.length)
    const end = found === -1 ? text.length : found + close.length
    result += text.slice(at, index) + spaces(text.slice(index, end))
    at = end
  }
  return result + text.slice(at)
}
