/**
 * Formats a template: each line is indented by two spaces for each HTML element around it, and spaces at the ends of lines
 * are removed. Tags of Liquid do not indent. Nothing else changes, and what is inside elements that keep their spaces, such
 * as `pre`, stays as it is.
 */

/** Elements without an end tag (HTML, 13.1.2 Elements). */
const VOID = new Set('area base br col embed hr img input link meta source track wbr'.split(' '))
/** Elements whose spaces are shown, or whose text is not HTML. */
const KEPT = new Set(['pre', 'textarea', 'script', 'style'])
/** Elements that do not indent: everything is inside them. */
const FLAT = new Set(['html'])

const TOKEN = /\{%-?\s*(\w*)|\{\{|<!--|<(\/?)([a-zA-Z][\w-]*)/g

const BRANCHES = new Set(['else', 'elsif', 'when'])
const BLOCKS = new Set(['if', 'unless', 'case', 'for', 'tablerow', 'capture', 'block', 'fragment'])

/** A change of the depth, or a range whose lines stay as they are. */
type Event = { at: number; depth: number } | { at: number; to: number; keeps: 'text' | 'tag' }

/** Returns the offset after an ending; undefined if there is none. */
function after(text: string, ending: string, from: number): number | undefined {
  const at = text.indexOf(ending, from)
  return at === -1 ? undefined : at + ending.length
}

/** Returns the offset after the `>` of a tag. Values in quotes, and what is in braces, do not end it. */
function afterTag(text: string, from: number): number | undefined {
  let quote = ''
  for (let at = from; at < text.length; at++) {
    const character = text.charAt(at)
    const closing = character !== '{' ? undefined : { '{': '}}', '%': '%}' }[text.charAt(at + 1)]
    if (closing !== undefined) {
      const end = after(text, closing, at + 2)
      if (end === undefined) return undefined
      at = end - 1
    } else if (quote !== '') quote = character === quote ? '' : quote
    else if (character === '"' || character === "'") quote = character
    else if (character === '>') return at + 1
  }
  return undefined
}

/** Returns the offset after the tag that ends `raw` or `comment`. */
function afterRaw(text: string, name: string, from: number): number | undefined {
  const found = new RegExp(`\\{%-?\\s*end${name}\\s*-?%\\}`).exec(text.slice(from))
  return found ? from + found.index + found[0].length : undefined
}

/** Returns what changes the indentation. Nothing is changed after a tag that does not end. */
function eventsIn(text: string): Event[] {
  const events: Event[] = []
  const outer: number[] = []
  let depth = 0
  TOKEN.lastIndex = 0
  for (let found = TOKEN.exec(text); found; found = TOKEN.exec(text)) {
    const { index: at, 0: whole, 1: tag, 2: slash, 3: element } = found
    const isRaw = tag === 'raw' || tag === 'comment'
    const end = isRaw
      ? afterRaw(text, tag, at)
      : element !== undefined
        ? afterTag(text, TOKEN.lastIndex)
        : after(text, tag !== undefined ? '%}' : whole === '{{' ? '}}' : '-->', TOKEN.lastIndex)
    if (end === undefined) return [...events, { at, to: text.length, keeps: 'text' }]
    const isLong = text.slice(at, end).includes('\n')
    TOKEN.lastIndex = end
    if (element === undefined) {
      if (tag !== undefined && !isRaw) {
        if (BLOCKS.has(tag)) outer.push(depth)
        else if (BRANCHES.has(tag)) depth = outer.at(-1) ?? depth
        else if (tag.startsWith('end')) outer.pop()
        events.push({ at, depth })
      }
      if (isLong) events.push({ at, to: end, keeps: 'text' })
      continue
    }
    const name = element.toLowerCase()
    if (slash !== '' && !VOID.has(name) && !FLAT.has(name)) depth = Math.max(0, depth - 1)
    events.push({ at, depth })
    if (isLong) events.push({ at, to: end, keeps: 'tag' })
    if (slash !== '' || VOID.has(name) || FLAT.has(name) || text.slice(at, end).endsWith('/>')) continue
    if (KEPT.has(name)) {
      const close = new RegExp(`</${name}\\b`, 'i').exec(text.slice(end))
      if (!close) return [...events, { at: end, to: text.length, keeps: 'text' }]
      TOKEN.lastIndex = end + close.index
      events.push({ at: end, to: TOKEN.lastIndex, keeps: 'text' })
    }
    events.push({ at: end, depth: ++depth })
  }
  return events
}

/** Returns the text with its lines indented. The start and the end of the text stay: a partial may be part of a line. */
export function formatTemplate(text: string): string {
  const events = eventsIn(text)
  let [start, next, depth, keptTo] = [0, 0, 0, 0]
  let keeps: 'text' | 'tag' = 'text'
  const follow = (to: number) => {
    for (let event = events[next]; event && event.at <= to; event = events[++next])
      if ('depth' in event) depth = event.depth
      else [keptTo, keeps] = [event.to, event.keeps]
  }
  const lines = text.split('\n')
  return lines
    .map((line, index) => {
      const isKept = start < keptTo
      const end = start + line.length
      // What closes at the start of the line is outside already.
      follow(start + (/\S/.exec(line)?.index ?? line.length))
      const around = isKept && keeps === 'tag' ? depth + 1 : depth
      const isEndKept = index === lines.length - 1 || end < keptTo
      const isWhole =
        (isKept && keeps === 'text') || (index > 0 && line.trim() === '' && index < lines.length - 1)
      follow(end)
      start = end + 1
      if (isKept && keeps === 'text') return line
      if (isWhole) return ''
      const content = isEndKept ? line.trimStart() : line.trim()
      return index === 0
        ? line.slice(0, line.length - line.trimStart().length) + content
        : '  '.repeat(around) + content
    })
    .join('\n')
}
