/** A rendered text, or why there is none. */
import { success, refused, type Outcome } from '../../../core/shapes/outcome.ts'
import { LONGEST_TEXT, renderText, type RenderedText } from '../../jobs/texts.ts'
import { ThreadStopped } from '../../jobs/thread.ts'
import { ROW_PROBLEMS } from '../problems.ts'
import type { ContentNames } from '../references.ts'

/** Renders Markdown. A text that takes too long is refused. */
export async function renderedText(
  file: string,
  body: string,
  { rules, sizeOf }: Pick<ContentNames, 'rules' | 'sizeOf'>,
): Promise<Outcome<RenderedText>> {
  try {
    return success(await renderText(body, rules, sizeOf))
  } catch (error) {
    if (!(error instanceof ThreadStopped)) throw error
    return refused({ file, ...ROW_PROBLEMS['text-not-rendered'](LONGEST_TEXT / 1_000) })
  }
}
