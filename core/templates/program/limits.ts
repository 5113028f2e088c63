/**
 * Limits inside a step: of ranges, lists and texts that filters take and return, so that no single step of a rendering
 * takes long or much memory. Between steps, the work that was done is added up.
 */
import { WordedError } from '../failure.ts'
import { TEMPLATE_PROBLEMS } from '../problems.ts'

/** Items of a list, and numbers in a range. */
const MOST_ITEMS = 50_000
/** Characters of a text that a filter takes or returns. */
const LONGEST_TEXT = 2_000_000
/** Characters of a text that is rendered as Markdown, or written for a date. */
const LONGEST_MARKDOWN = 20_000
const LONGEST_FORMAT = 200

const tooMany = (items: number) =>
  new WordedError(
    TEMPLATE_PROBLEMS['template-list-too-long'](Math.min(items, Number.MAX_SAFE_INTEGER), MOST_ITEMS),
  )
const tooLong = (characters: number, most = LONGEST_TEXT) =>
  new WordedError(TEMPLATE_PROBLEMS['template-text-too-long'](characters, most))

/** Throws for a range with too many numbers, before it is made. */
export function checkRange(from: unknown, to: unknown): void {
  const items = Number(to) - Number(from) + 1
  if (items > MOST_ITEMS) throw tooMany(items)
}

/** Throws for a text or a list that is too long for a filter. */
export function checkValue(value: unknown): void {
  if (typeof value === 'string') {
    if (value.length > LONGEST_TEXT) throw tooLong(value.length)
  } else if (Array.isArray(value) && value.length > MOST_ITEMS) throw tooMany(value.length)
}

const lengthOf = (value: unknown): number =>
  typeof value === 'string' ? value.length : typeof value === 'object' ? 0 : String(value ?? '').length

/**
 * Throws before a filter is run whose result would be too long, or that would take long for its input. The value and the
 * arguments themselves are checked by `checkValue`.
 */
export function checkCall(filter: string, value: unknown, words: readonly unknown[]): void {
  switch (filter) {
    case 'replace':
    case 'remove': {
      const [wanted, by = ''] = words
      const times = Math.floor(lengthOf(value) / Math.max(1, lengthOf(wanted)))
      const length = lengthOf(value) + times * lengthOf(by)
      if (length > LONGEST_TEXT) throw tooLong(length)
      return
    }
    case 'join': {
      const list = Array.isArray(value) ? (value as unknown[]) : []
      const length = list.reduce<number>((sum, one) => sum + lengthOf(one) + lengthOf(words[0] ?? ' '), 0)
      if (length > LONGEST_TEXT) throw tooLong(length)
      return
    }
    case 'split': {
      // Without a separator, each character becomes an item.
      const [separator] = words
      if (lengthOf(separator) === 0 && lengthOf(value) > MOST_ITEMS) throw tooMany(lengthOf(value))
      return
    }
    case 'markdown':
      if (lengthOf(value) > LONGEST_MARKDOWN) throw tooLong(lengthOf(value), LONGEST_MARKDOWN)
      return
    case 'date': {
      const [format] = words
      if (lengthOf(format) > LONGEST_FORMAT) throw tooLong(lengthOf(format), LONGEST_FORMAT)
      // A width pads the text: “%999999999d”.
      if (typeof format === 'string' && /%[^A-Za-z%]*\d{3,}/.test(format)) throw tooLong(LONGEST_TEXT)
      return
    }
  }
}

/** Work that any page may do, however slow the machine is at that moment. Rendering a node is one unit. */
const FREE_WORK = 10_000
/** After how much work the processor time is read for the first time. Most renderings do less. */
const SOME_WORK = 1_000
/** How long a rendering that has done more work may take, in milliseconds. */
const LONGEST = 150
/** How much of the processor it must have used by then to be stopped, in milliseconds. */
const USED = 100
/** How long it may take in any case, in milliseconds. */
const LONGEST_WAIT = 1_000

/** What a rendering has done, and when it began. */
export class Meter {
  #units = 0
  readonly #start = performance.now()
  /** The processor time after some work. */
  #used = NaN
  readonly #processorTime: () => number

  /** @param processorTime returns what the thread has used of the processor, in milliseconds */
  constructor(processorTime: () => number) {
    this.#processorTime = processorTime
  }

  /**
   * Adds work, and stops a rendering that takes too long. One that was only held up by a busy machine has done little
   * work, or has used little of the processor, and goes on.
   */
  spend(units: number): void {
    this.#units += units
    if (this.#units > SOME_WORK) this.#check()
  }

  #check(): void {
    if (Number.isNaN(this.#used)) this.#used = this.#processorTime()
    if (this.#units <= FREE_WORK) return
    const waited = performance.now() - this.#start
    if (waited <= LONGEST) return
    if (this.#processorTime() - this.#used > USED)
      throw new WordedError(TEMPLATE_PROBLEMS['template-runaway'](LONGEST))
    if (waited > LONGEST_WAIT) throw new WordedError(TEMPLATE_PROBLEMS['template-render-slow'](LONGEST_WAIT))
  }
}

/** Returns the work of a filter: lists and texts cost by their size, and most where each item is evaluated. */
export function workOf(filter: string, value: unknown): number {
  if (typeof value === 'string') return 1 + value.length / 2_000
  if (!Array.isArray(value)) return 1
  return 1 + value.length / (filter.endsWith('_exp') ? 2 : 20)
}
