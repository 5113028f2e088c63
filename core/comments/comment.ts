/** Reads a comment as sent by a form: its values, and what is wrong with each field. */
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
  /** Makes sending the same form twice add one comment only; null when the form had none. */
  once: string | null
}
export type CommentErrors = Partial<Record<'name' | 'text', string>>

/** Control characters but the line break and the tab. */
const CONTROL = /[\p{Cc}--[\n\t]]/gv

/** Trims, folds line ends, drops control characters; errors are sentences for the reader, by field. */
export function readComment(
  fields: Readonly<Record<string, string | undefined>>,
  limits: CommentLimits,
): { draft: CommentDraft; errors: CommentErrors } {
  const clean = (text: string | undefined) =>
    (text ?? '').toWellFormed().replace(/\r\n?/g, '\n').replace(CONTROL, '').trim()
  const name = clean(fields['name']).replace(/\s+/g, ' ')
  const text = clean(fields['text']).replace(/\n{3,}/g, '\n\n')
  const errors: CommentErrors = {}
  if (name === '') errors.name = 'Please give a name to show beside your comment.'
  else if ([...name].length > limits.nameLength)
    errors.name = `A name may have up to ${limits.nameLength} characters; this one has ${[...name].length}.`
  if (text === '') errors.text = 'The comment is empty.'
  else if ([...text].length > limits.textLength)
    errors.text = `A comment may have up to ${limits.textLength} characters; this one has ${[...text].length}.`
  const once = fields['once'] ?? ''
  return { draft: { name, text, once: /^[0-9a-f-]{36}$/.test(once) ? once : null }, errors }
}
