/** Lines that hold only tags print nothing: neither their indentation nor their end. */
import { TypeGuards, type Token } from 'liquidjs'

/** Tags that print something on their line. */
const PRINTING = new Set(['echo', 'cycle', 'increment', 'decrement', 'liquid', 'raw', 'endraw'])

/** The rest of a line before its end, with the end. */
const LINE_END = /^[ \t]*(?:\r?\n|$)/
/** The start of a line. */
const LINE_START = /(?:^|\n)([ \t]*)$/

const textOf = (token: Token) => token.input.slice(token.begin, token.end)

/**
 * Trims the texts around lines that hold only tags. A partial that is rendered on a line of its own ends the line itself.
 * @param tokens of a template; of their trims, the larger one counts
 */
export function dropTagLines(tokens: readonly Token[]): void {
  for (let index = 0; index < tokens.length; index++) {
    if (!isTag(tokens[index])) continue
    const last = endOfTags(tokens, index)
    const line = tokens.slice(index, last + 1)
    index = last
    // Whoever trims by hand has decided about the line.
    if (line.some((one) => TypeGuards.isTagToken(one) && (one.trimLeft || one.trimRight))) continue
    const [before, after] = [tokens[index - line.length], tokens[index + 1]]
    const indentation = before ? (isText(before) ? LINE_START.exec(textOf(before))?.[1] : undefined) : ''
    const end = after ? (isText(after) ? LINE_END.exec(textOf(after))?.[0] : undefined) : ''
    if (indentation === undefined || end === undefined) continue
    if (before && isText(before)) before.trimRight = Math.max(before.trimRight, indentation.length)
    if (after && isText(after)) after.trimLeft = Math.max(after.trimLeft, end.length)
    for (const one of line) if (isText(one)) one.trimLeft = textOf(one).length
  }
}

const isText = TypeGuards.isHTMLToken
const isTag = (token: Token | undefined): boolean =>
  token !== undefined && TypeGuards.isTagToken(token) && !PRINTING.has(token.name)

/** Returns the last of the tags that follow each other on a line. */
function endOfTags(tokens: readonly Token[], first: number): number {
  let last = first
  for (let next = first + 1; next < tokens.length; next++) {
    const token = tokens[next]
    if (isTag(token)) last = next
    else if (!token || !isText(token) || !/^[ \t]*$/.test(textOf(token))) break
  }
  return last
}
