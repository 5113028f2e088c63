/** What the workbench's API said against something. */
import { ApiProblem } from '../../api/client.ts'

/** First problem of a refused save, as a sentence with its place. */
export function whyRefused(error: unknown): string {
  if (!(error instanceof ApiProblem)) return error instanceof Error ? error.message : 'It could not be done'
  const [first] = error.details.problems ?? []
  if (!first) return error.details.detail ?? error.details.title
  const place = `${first.file}${first.line === undefined ? '' : `:${first.line}`}`
  return `${place} ${first.message}${first.hint === undefined ? '' : ` – ${first.hint}`}`
}
