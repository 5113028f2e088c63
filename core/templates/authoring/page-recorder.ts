/** Records which template line printed each part of a page, and the values of names at the lines of one template. */
import type { Located, NameValue, ReadNames, RenderRecorder } from '../recorder.ts'

/** A line of a template, in one of its renderings on the page. */
export interface PrintedPlace {
  template: string
  line: number
  /** 1 for the first rendering of the template on the page. */
  time: number
}

interface Span {
  at: Located
  time: number
  from: number
  to: number
  isVerbatim: boolean
}

/** Spans of one page. What a page prints beyond them is not located. */
const MOST_SPANS = 200_000

export class PageRecorder implements RenderRecorder {
  readonly #template: string
  readonly #time: number
  /** Template → how many times it was rendered so far. */
  readonly #times = new Map<string, number>()
  #spans: Span[] = []
  readonly #outer: Span[][] = []
  /** The text that has ended last. A fragment prints it at once. */
  #ended: { text: string; spans: Span[] } | undefined
  #count = 0
  /** Line of the template → the values of names there. */
  readonly values = new Map<number, ReadonlyMap<string, NameValue>>()

  /**
   * @param template whose values are recorded
   * @param time in which of its renderings, from 1
   */
  constructor(template: string, time: number) {
    this.#template = template
    this.#time = time
  }

  templateEntered(name: string): void {
    this.#times.set(name, this.timesOf(name) + 1)
  }

  /** Returns how many times a template was rendered. */
  timesOf(template: string): number {
    return this.#times.get(template) ?? 0
  }

  entered(at: Located, names: ReadNames): void {
    const isWanted = at.template === this.#template && this.timesOf(at.template) === this.#time
    if (isWanted && !this.values.has(at.line)) this.values.set(at.line, names())
  }

  printed(at: Located, from: number, to: number, isVerbatim: boolean): void {
    if (from === to || ++this.#count > MOST_SPANS) return
    this.#spans.push({ at, time: this.timesOf(at.template), from, to, isVerbatim })
  }

  textBegun(): void {
    this.#outer.push(this.#spans)
    this.#spans = []
  }

  textEnded(text: string): void {
    this.#ended = { text, spans: this.#spans }
    this.#spans = this.#outer.pop() ?? []
  }

  textPrinted(text: string, at: number): void {
    if (this.#ended?.text !== text) return
    for (const span of this.#ended.spans)
      this.#spans.push({ ...span, from: span.from + at, to: span.to + at })
  }

  /** Returns the places that printed a part of the page, in page order. */
  placesIn(page: string, from: number, to: number): PrintedPlace[] {
    const places: PrintedPlace[] = []
    for (let index = this.#firstAfter(from); index < this.#spans.length; index++) {
      const span = this.#spans[index]
      if (!span || span.from >= to) break
      const { template, line } = span.at
      const before = span.isVerbatim ? linesIn(page.slice(span.from, Math.max(from, span.from))) : 0
      const within = span.isVerbatim
        ? linesIn(page.slice(Math.max(from, span.from), Math.min(to, span.to)))
        : 0
      for (let more = 0; more <= within; more++)
        places.push({ template, line: line + before + more, time: span.time })
    }
    return places
  }

  /** Returns the index of the first span that ends after an offset. */
  #firstAfter(offset: number): number {
    let [low, high] = [0, this.#spans.length]
    while (low < high) {
      const middle = (low + high) >> 1
      if ((this.#spans[middle]?.to ?? 0) > offset) high = middle
      else low = middle + 1
    }
    return low
  }
}

function linesIn(text: string): number {
  let count = 0
  for (let at = text.indexOf('\n'); at !== -1; at = text.indexOf('\n', at + 1)) count++
  return count
}
