/** A problem in a document: what is wrong, where, and what to do about it. Errors are values with a place. */
export interface Problem {
  /** The document, e.g. `routes.yaml` or `templates/partials/card.liquid`. */
  file: string
  /** Where inside the document's data, e.g. `/2/params/slug`. */
  path?: string
  /** 1-based. */
  line?: number
  /** 1-based. */
  column?: number
  message: string
  /** What to try. */
  hint?: string
}

/** One line for terminals and logs: `routes.yaml:12:5 message (hint)`. */
export function describeProblem(problem: Problem): string {
  const place = [problem.file, problem.line, problem.column].filter((part) => part !== undefined).join(':')
  return `${place} ${problem.message}${problem.hint === undefined ? '' : ` (${problem.hint})`}`
}
