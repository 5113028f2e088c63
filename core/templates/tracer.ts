/** Receives the templates of a page as they are rendered. */
export interface TemplateTracer {
  /** False if nothing is recorded: then what only the record needs is not computed. */
  readonly isRecording: boolean
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
