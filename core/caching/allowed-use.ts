/** Says what browsers and shared caches may do with an answer, in a sentence. */
import { spanText } from '../shapes/span-text.ts'

/** Statuses that a cache may keep although the answer does not say so, by a guess (RFC 9110 §15.1). */
const KEPT_BY_GUESS = new Set([200, 203, 204, 206, 300, 301, 308, 404, 405, 410, 414, 501])

type Directives = ReadonlyMap<string, string>

const directivesOf = (header: string): Directives =>
  new Map(
    header
      .toLowerCase()
      .split(',')
      .map((one) => {
        const [name = '', value = ''] = one.trim().split('=')
        return [name, value.replaceAll('"', '')]
      }),
  )

const seconds = (directives: Directives, name: string): number | undefined => {
  const value = directives.get(name)
  return value !== undefined && /^\d+$/.test(value) ? Number(value) : undefined
}

/** @param headers of the answer, by lower-case names */
export function allowedUse(status: number, headers: Readonly<Record<string, string>>): string {
  const directives = directivesOf(headers['cache-control'] ?? '')
  if (directives.has('no-store')) return 'Neither the browser nor a shared cache may keep it.'
  const who = directives.has('private')
    ? 'Only the browser may keep it'
    : 'Browsers and shared caches may keep it'
  const hasValidator = headers['etag'] !== undefined || headers['last-modified'] !== undefined
  const asking = hasValidator ? 'ask whether it is still valid' : 'request it again'
  if (directives.has('no-cache')) return `${who}, and must ${asking} each time.`
  const age = seconds(directives, 'max-age')
  if (age === undefined)
    return KEPT_BY_GUESS.has(status)
      ? `${who}, for a time that they guess.`
      : 'Neither the browser nor a shared cache keeps it.'
  const used = Number(headers['age'] ?? 0)
  const left = Math.max(0, age - used)
  const whileAsking = seconds(directives, 'stale-while-revalidate') ?? 0
  const ifError = seconds(directives, 'stale-if-error') ?? 0
  return [
    `${who}, and use it for ${spanText(left * 1_000)}${used > 0 ? ` (it is ${spanText(used * 1_000)} old)` : ''}.`,
    ...(whileAsking > 0
      ? [`For ${spanText(whileAsking * 1_000)} more, they may use it while they ${asking}.`]
      : []),
    ...(ifError > 0 ? [`If that fails, they may use it for ${spanText(ifError * 1_000)} more.`] : []),
  ].join(' ')
}
