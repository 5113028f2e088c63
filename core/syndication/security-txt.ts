/** Writes security.txt (RFC 9116): how to report a vulnerability. */
import type { SecurityContact } from '../shapes/schemas.ts'

/** Where programs look for it (RFC 9116 §3). */
export const SECURITY_PATH = '/.well-known/security.txt'

/** @param canonical its own address; undefined if the blog has no public one */
export function writeSecurityTxt(
  { contact, expires, policy, encryption, acknowledgments, languages }: SecurityContact,
  canonical: string | undefined,
): string {
  const fields = [
    ...contact.map((one) => ['Contact', one] as const),
    ['Expires', `${expires}T00:00:00Z`],
    ['Encryption', encryption],
    ['Acknowledgments', acknowledgments],
    ['Preferred-Languages', languages],
    ['Canonical', canonical],
    ['Policy', policy],
  ] as const
  return fields.flatMap(([name, value]) => (value === undefined ? [] : [`${name}: ${value}\n`])).join('')
}
