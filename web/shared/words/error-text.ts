/** What an error says, for notices. */
import { ApiProblem } from '../../api/client.ts'
import { words } from './words.ts'

/** Returns the first problem with its place and hint, or else the title of the response. */
export function errorText(error: unknown): string {
  if (!(error instanceof ApiProblem)) return error instanceof Error ? error.message : words.failed
  const [first] = error.details.problems ?? []
  if (!first) return [error.details.title, error.details.detail].filter(Boolean).join(' ')
  const place = first.line === undefined ? '' : `${first.file}:${first.line} `
  return `${place}${first.message}${first.hint === undefined ? '' : ` ${first.hint}`}`
}
