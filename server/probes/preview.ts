/** Renders a page of the blog as its author would see it after a change, which is then rolled back. */
import type { Outcome } from '../../core/shapes/outcome.ts'
import type { Writing } from '../author/writing.ts'
import { answer } from '../reader/answer.ts'
import { internalRequest } from '../reader/request.ts'
import { rehearse, type RehearsalPorts } from './rehearse.ts'

export interface Preview {
  status: number
  html: string
  /** The content security policy of the page; null if no route shows it. */
  policy: string | null
}

/**
 * Renders the page at an address.
 * @param change the change to preview
 * @param pathOf returns the address; null if no route shows the row
 */
export const previewAt = <T>(
  blog: RehearsalPorts,
  change: (writing: Writing) => Promise<Outcome<T>>,
  pathOf: (value: T) => string | null,
): Promise<Outcome<Preview & { value: T }>> =>
  rehearse(blog, change, async (changed, value) => {
    const path = pathOf(value)
    if (path === null) return { value, status: 404, html: '', policy: null }
    const { status, body, headers } = await answer(changed, internalRequest(path, { as: 'author' }))
    return { value, status, html: body, policy: headers['content-security-policy'] ?? null }
  })
