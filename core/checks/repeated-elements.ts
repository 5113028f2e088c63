/** Finds elements in a template that are written twice, one right after the other. */
import { COMPUTED, spaces, withoutApart } from './without-apart.ts'

export interface RepeatedElement {
  /** The name of the element. */
  name: string
  /** The element as written. */
  text: string
  /** The offset at which the second one begins. */
  at: number
}

const TAG = /<(\/?)([a-z][a-z0-9]*)\b[^<>]*>/gi
/** The starts of comments, and of elements whose text is not markup. */
const APART = /<!--|<(script|style|textarea|pre)\b/gi
/** Elements of which several in a row may say the same. */
const MAY_REPEAT = new Set(['td', 'th'])
/** Those that may do so unless they print a value: they are drawn by styles. */
const DRAWN = new Set(['span', 'i', 'b', 'div'])
/** Elements without an end tag. */
const VOID = new Set(['area', 'br', 'col', 'hr', 'img', 'input', 'link', 'meta', 'source', 'track', 'wbr'])

export function repeatedElements(template: string): RepeatedElement[] {
  // Offsets stay the same.
  const markup = withoutApart(template.replace(COMPUTED, spaces), APART)
  const open: { name: string; at: number }[] = []
  /** The last element that was closed at each depth. */
  const before: ({ name: string; at: number; end: number } | undefined)[] = []
  const found: RepeatedElement[] = []
  for (const { 0: tag, 1: slash, 2: written = '', index } of markup.matchAll(TAG)) {
    const name = written.toLowerCase()
    if (VOID.has(name)) continue
    if (slash === '') {
      open.push({ name, at: index })
      before[open.length] = undefined
      continue
    }
    const last = open.pop()
    // Elements that branches open and close are not followed.
    if (last?.name !== name) return found
    const end = index + tag.length
    const earlier = before[open.length]
    before[open.length] = { name, at: last.at, end }
    if (!earlier || earlier.end - earlier.at !== end - last.at || MAY_REPEAT.has(name)) continue
    const text = template.slice(last.at, end)
    const isBeside = template.slice(earlier.end, last.at).trim() === ''
    const says =
      text.replace(/<[^<>]*>/g, '').trim() !== '' || /^<[^<>]*\s(?:id|role|name|href|src)=/.test(text)
    const isMeant = DRAWN.has(name) && !text.includes('{{')
    if (isBeside && says && !isMeant && template.slice(earlier.at, earlier.end) === text)
      found.push({ name, text, at: last.at })
  }
  return found
}
