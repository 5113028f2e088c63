/** Reads a comment form: cleans its values and validates each field. */
import type { Say } from '../messages/say.ts'
import type { Settings } from '../shapes/schemas.ts'

export interface CommentLimits {
  nameLength: number
  textLength: number
}

export const commentLimits = (settings: Settings): CommentLimits => ({
  nameLength: settings.comments?.['name-length'] ?? 80,
  textLength: settings.comments?.['text-length'] ?? 4_000,
})

export interface CommentDraft {
  name: string
  text: string
  /** Identifies the form, so that submitting it twice adds one comment; null if the form had no valid token. */
  once: string | null
}
export type CommentErrors = Partial<Record<'name' | 'text', string>>

/** Control characters except the line feed and the tab. */
const CONTROL = /[\p{Cc}--[\n\t]]/gv

/** RFC 9562 §4. */
const UUID = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/i

/**
 * Trims values, normalizes line ends and removes control characters. Errors are sentences for the reader, by field.
 * @param say gives the sentences
 */
export function readComment(
  fields: Readonly<Record<string, string | undefined>>,
  limits: CommentLimits,
  say: Say,
): { draft: CommentDraft; errors: CommentErrors } {
  const clean = (text: string | undefined) =>
    (text ?? '').toWellFormed().replace(/\r\n?/g, '\n').replace(CONTROL, '').trim()
  const name = clean(fields['name']).replace(/\s+/g, ' ')
  const text = clean(fields['text']).replace(/\n{3,}/g, '\n\n')
  const errors: CommentErrors = {}
  if (name === '') errors.name = say('comment-name-missing')
  else if ([...name].length > limits.nameLength)
    errors.name = say('comment-name-too-long', { length: [...name].length, maximum: limits.nameLength })
  if (text === '') errors.text = say('comment-text-missing')
  else if ([...text].length > limits.textLength)
    errors.text = say('comment-text-too-long', { length: [...text].length, maximum: limits.textLength })
  const once = fields['once'] ?? ''
  return { draft: { name, text, once: UUID.test(once) ? once : null }, errors }
}
