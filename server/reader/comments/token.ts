/**
 * Tokens of comment forms. A token belongs to the browser, or to the network address, that received the form; it says when,
 * and it identifies what is sent with it.
 */
import type { CursorKeyPort } from '../../publish/ports.ts'
import { isSigned, signFor } from '../secret.ts'

/** For how long a form can be sent, in milliseconds. */
const LIFETIME = 7 * 86_400_000

/** RFC 9562 §4. */
const UUID = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/

export interface TokenOwner {
  writer: string
  client: string | null
}

/** @param id a UUID */
export function formToken(
  { cursorKey }: CursorKeyPort,
  id: string,
  { writer, client }: TokenOwner,
  now: Date,
): string {
  const sign = signFor(cursorKey, 'comment form')
  const part = `${id}.${now.getTime().toString(36)}`
  return [part, sign(`${part} writer ${writer}`), sign(`${part} client ${client ?? ''}`)].join('.')
}

/** Returns the id of a form and for how long it was open, in milliseconds; undefined for a token of somebody else. */
export function readToken(
  { cursorKey }: CursorKeyPort,
  token: string,
  { writer, client }: TokenOwner,
  now: Date,
): { id: string; open: number } | undefined {
  const [id = '', time = '', ofWriter = '', ofClient = '', ...more] = token.split('.')
  if (more.length > 0 || !UUID.test(id) || !/^[0-9a-z]{1,9}$/.test(time)) return undefined
  const sign = signFor(cursorKey, 'comment form')
  const part = `${id}.${time}`
  const isOwn =
    isSigned(sign, `${part} writer ${writer}`, ofWriter) ||
    isSigned(sign, `${part} client ${client ?? ''}`, ofClient)
  const open = now.getTime() - parseInt(time, 36)
  return isOwn && open >= 0 && open <= LIFETIME ? { id, open } : undefined
}
