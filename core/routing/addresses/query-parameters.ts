/** Reads the query parameters that a route declares. A value that does not match its type is treated as absent. */
import type { ParameterType } from '../../shapes/schemas.ts'
import { PARAMETER_RULES, type ParameterValue } from '../patterns/parameters.ts'

export interface QueryParameter {
  name: string
  /** As in the address, decoded; null if absent. */
  raw: string | null
  type: ParameterType
  /** null if queries see it as absent. */
  value: ParameterValue | null
  /** Why the value differs from what was sent, or null. */
  note: string | null
  /** Whether a value was sent that cannot be used. */
  isInvalid: boolean
}

/** The maximum length of a value, in characters. */
const VALUE_LIMIT = 500

/** Reads the declared parameters of a query string. */
export function readQueryParameters(
  declared: Readonly<Record<string, ParameterType>>,
  search: URLSearchParams,
): QueryParameter[] {
  const names = Object.keys(declared)
  if (names.length === 0) return []
  return names.map((name) => {
    const type = declared[name] ?? 'text'
    const all = search.getAll(name)
    const [raw = null] = all
    const read = (value: ParameterValue | null, note: string | null, isInvalid = false): QueryParameter => ({
      name,
      raw,
      type,
      value,
      note: note ?? (all.length > 1 ? `given ${all.length} times; the first is used` : null),
      isInvalid,
    })
    const invalid = (why: string) => read(null, `${why}, treated as absent`, true)
    if (raw === null) return read(null, 'absent')
    const text = raw.trim()
    if (text === '') return read(null, 'empty, treated as absent')
    if (text.length > VALUE_LIMIT) return invalid(`longer than ${VALUE_LIMIT} characters`)
    // No row can match: PostgreSQL's text has no null characters and no unpaired surrogates.
    if (text.includes('\0') || !text.isWellFormed()) return invalid('contains an invalid character')
    const rule = PARAMETER_RULES[type]
    if (type === 'text' || type === 'path') return read(text, null)
    if (!new RegExp(`^(?:${rule.source})$`).test(text)) return invalid(`not ${rule.meaning}`)
    return read(rule.read(text), null)
  })
}
