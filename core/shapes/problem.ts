/** A problem in a document: a stable code, the place, a message and what to do about it. Errors are values. */
export interface Problem {
  /** Stable code, e.g. `query-field-unknown`; `docs/problems.md` lists all of them. Tests and clients compare codes. */
  code: string
  /** The document, e.g. `routes.yaml` or `templates/partials/card.liquid`. */
  file: string
  /** Place inside the document's data as a JSON pointer (RFC 6901), e.g. `/2/params/slug`. */
  path?: string
  /** 1-based. */
  line?: number
  /** 1-based. */
  column?: number
  /** What is wrong, as a sentence. */
  message: string
  /** What to do about it, as a sentence. */
  hint?: string
  /** Path of the document that has to be created, if that is what is wrong. */
  missing?: string
}

/** Returns one line for terminals and logs: `routes.yaml:12:5 Message. Hint.` */
export function describeProblem(problem: Problem): string {
  const place = [problem.file, problem.line, problem.column].filter((part) => part !== undefined).join(':')
  return `${place} ${problem.message}${problem.hint === undefined ? '' : ` ${problem.hint}`}`
}
