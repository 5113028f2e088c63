/** Receives the templates of a page as they are rendered. */
import type { RenderRecorder } from './recorder.ts'

export interface TemplateTracer {
  /** False if nothing is recorded: then what only the record needs is not computed. */
  readonly isRecording: boolean
  /** Receives the nodes of the page that is being rendered. */
  readonly recorder?: RenderRecorder | undefined
  /** Called before a partial or layout is rendered. */
  enterTemplate(name: string, from: { file: string; line: number }): void
  /** Called after it was rendered. */
  leaveTemplate(): void
}

export const NO_TEMPLATE_TRACER: TemplateTracer = {
  isRecording: false,
  enterTemplate: () => undefined,
  leaveTemplate: () => undefined,
}
