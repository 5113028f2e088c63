/**
 * Renders Markdown, and makes SVG images safe. Long texts are handled in a worker thread, so that readers do not wait, and
 * are stopped if they take too long.
 */
import type { HtmlRules, ImageSizes } from '../../core/content/html/allow-list.ts'
import { renderMarkdown } from '../../core/content/html/markdown.ts'
import { summaryOf, type TextSummary } from '../../core/content/text.ts'
import { cleanSvg, type SvgResult } from '../../core/content/html/svg.ts'
import { PATIENCE, Thread } from './thread.ts'

export type TextQuestion =
  | { kind: 'markdown'; text: string; rules: HtmlRules; sizes: ReadonlyMap<string, ImageSize> }
  | { kind: 'svg'; text: string }
/** A rendered text, with what listings show of it. */
export type RenderedText = TextSummary & { html: string }

export type TextAnswer = { kind: 'markdown'; rendered: RenderedText } | { kind: 'svg'; result: SvgResult }

type ImageSize = Exclude<ReturnType<ImageSizes>, undefined>

/** Up to how many characters a text is rendered at once: the slowest take about 10 ms. */
const SHORT = 2_000
/** How long a text or an image may take, in milliseconds. */
export const LONGEST_TEXT = 5_000

/** Memory of the thread, in megabytes. */
const MEMORY = 512

const thread = new Thread<TextQuestion, TextAnswer>('texts-thread', MEMORY)
const ask = (question: TextQuestion) => thread.ask(question, { longest: LONGEST_TEXT, patience: PATIENCE })

/** Renders a text on the current thread. */
export function renderedAtOnce(text: string, rules: HtmlRules, sizeOf: ImageSizes): RenderedText {
  const { html } = renderMarkdown(text, { rules, sizeOf })
  return { html, ...summaryOf(html) }
}

/** @throws ThreadStopped if it takes too long */
export async function renderText(text: string, rules: HtmlRules, sizeOf: ImageSizes): Promise<RenderedText> {
  if (text.length <= SHORT) return renderedAtOnce(text, rules, sizeOf)
  const sizes = new Map<string, ImageSize>()
  // The addresses that may be images of this blog, in Markdown and in HTML.
  for (const [address] of text.matchAll(/\/media\/[^\s"'<>()\\]*/g)) {
    const size = sizeOf(address)
    if (size) sizes.set(address, size)
  }
  const answer = await ask({ kind: 'markdown', text, rules, sizes })
  if (answer.kind !== 'markdown') throw new Error('The answer is not a text.')
  return answer.rendered
}

/** @throws ThreadStopped if it takes too long */
export async function readDrawing(text: string): Promise<SvgResult> {
  if (text.length <= SHORT) return cleanSvg(text)
  const answer = await ask({ kind: 'svg', text })
  if (answer.kind !== 'svg') throw new Error('The answer is not a drawing.')
  return answer.result
}
