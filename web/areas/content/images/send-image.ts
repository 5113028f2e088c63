/** A picture sent to the workbench, and why it was not taken. */
import { ApiProblem, call } from '../../../api/client.ts'
import { whyRefused } from '../../../shared/words/why-refused.ts'

/** @param replaces name of the image whose place it takes */
export const sendImage = async (file: File, replaces?: string) =>
  await call('PUT /api/image', {
    query: { file: file.name, ...(replaces === undefined ? {} : { replaces }) },
    body: new Uint8Array(await file.arrayBuffer()),
  })

export function whyNotTaken(error: unknown): string {
  if (!(error instanceof ApiProblem) || error.details.status !== 422) return whyRefused(error)
  const { title, detail, problems } = error.details
  const line = problems?.[0]?.line
  return [
    title,
    ...(line === undefined ? [] : [`line ${line}`]),
    ...(detail === undefined ? [] : [detail]),
  ].join('; ')
}
