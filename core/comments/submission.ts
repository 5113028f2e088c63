/** Reads a comment form: cleans its values and validates each field. */
import type { Say } from '../messages/say.ts'
import type { CommentField, RulesInForce } from './rules.ts'
import { cleanLine, cleanText } from './text.ts'

/** What a reader has typed. Fields that the rules do not have are empty. */
export type CommentValues = Record<CommentField | 'text', string>
/** Sentences for the reader, by field. */
export type CommentErrors = Partial<Record<CommentField | 'text', string>>

export const NO_VALUES: Readonly<CommentValues> = { name: '', email: '', site: '', text: '' }

/** A valid e-mail address (WHATWG HTML, §4.10.5.1.5). */
const EMAIL =
  /^[a-zA-Z0-9.!#$%&'*+/=?^_`{|}~-]+@[a-zA-Z0-9](?:[a-zA-Z0-9-]{0,61}[a-zA-Z0-9])?(?:\.[a-zA-Z0-9](?:[a-zA-Z0-9-]{0,61}[a-zA-Z0-9])?)*$/
/** RFC 5321 §4.5.3.1.3, without the angle brackets. */
const LONGEST_EMAIL = 254
const LONGEST_SITE = 500

/** @param say gives the sentences */
export function readSubmission(
  fields: Readonly<Record<string, string | undefined>>,
  rules: Pick<RulesInForce, 'fields' | 'nameLength' | 'textLength' | 'notify'>,
  say: Say,
): { values: CommentValues; errors: CommentErrors } {
  const line = (field: CommentField) => (rules.fields[field] === 'off' ? '' : cleanLine(fields[field] ?? ''))
  const values = {
    name: line('name'),
    email: line('email'),
    site: line('site'),
    text: cleanText(fields['text'] ?? ''),
  }
  const errors: CommentErrors = {}
  const check = (field: keyof CommentErrors, error: string | undefined) => {
    if (error !== undefined) errors[field] = error
  }
  check(
    'name',
    lengthError(values.name, rules.nameLength, {
      missing: rules.fields.name === 'required' ? say('comment-name-missing') : undefined,
      long: (counts) => say('comment-name-too-long', counts),
    }),
  )
  if (values.email !== '' && (values.email.length > LONGEST_EMAIL || !EMAIL.test(values.email)))
    check('email', say('comment-email-invalid'))
  else if (values.email === '' && rules.fields.email === 'required')
    check('email', say('comment-email-missing'))
  else if (values.email === '' && wantsReplies(fields, rules))
    check('email', say('comment-email-for-replies'))
  const site = siteAddress(values.site)
  if (site === undefined) check('site', say('comment-site-invalid'))
  else if (site === '' && rules.fields.site === 'required') check('site', say('comment-site-missing'))
  check(
    'text',
    lengthError(values.text, rules.textLength, {
      missing: say('comment-text-missing'),
      long: (counts) => say('comment-text-too-long', counts),
    }),
  )
  return { values: { ...values, site: site ?? values.site }, errors }
}

/** The name of the checkbox for e-mails about replies. */
export const REPLIES = 'replies'

/** Whether a reader asks for e-mails about replies, and the rules allow it. */
export const wantsReplies = (
  fields: Readonly<Record<string, string | undefined>>,
  rules: Pick<RulesInForce, 'fields' | 'notify'>,
): boolean => rules.notify.replies && rules.fields.email !== 'off' && fields[REPLIES] !== undefined

function lengthError(
  value: string,
  maximum: number,
  say: { missing: string | undefined; long(counts: { length: number; maximum: number }): string },
): string | undefined {
  if (value === '') return say.missing
  const { length } = [...value]
  return length > maximum ? say.long({ length, maximum }) : undefined
}

/** Returns the address of a web site as an `http` or `https` URL; an empty text for none, undefined if it is not valid. */
function siteAddress(text: string): string | undefined {
  if (text === '') return ''
  if (text.length > LONGEST_SITE || /\s/.test(text)) return undefined
  const address = /^[a-z][a-z0-9+.-]*:/i.test(text) ? text : `https://${text}`
  if (!URL.canParse(address)) return undefined
  const url = new URL(address)
  if (!/^https?:$/.test(url.protocol) || url.username !== '' || !url.hostname.includes('.')) return undefined
  return url.href.length > LONGEST_SITE ? undefined : url.href
}
