/** Typed parameters of the query string, as a route declares them: read with care, for anybody may write anything. */
import type { ParameterType } from '../../shapes/schemas.ts'
import { PARAMETER_RULES, type ParameterValue } from '../patterns/parameters.ts'

export interface QueryParameter {
  name: string
  /** As it stands in the address, decoded; null when it is not there. */
  raw: string | null
  type: ParameterType
  /** null: queries see it as absent. */
  value: ParameterValue | null
  /** What was made of it, where that is not plain. */
  note: string | null
}

/** Longest value that is read, in characters. */
const LONGEST = 500

/** @param query the query string without “?” */
export function readQueryParameters(
  declared: Readonly<Record<string, ParameterType>>,
  query: string,
): QueryParameter[] {
  const names = Object.keys(declared)
  if (names.length === 0) return []
  const given = new URLSearchParams(query)
  return names.map((name) => {
    const type = declared[name] ?? 'text'
    const all = given.getAll(name)
    const [raw = null] = all
    const one = (value: ParameterValue | null, note: string | null): QueryParameter => ({
      name,
      raw,
      type,
      value,
      note: note ?? (all.length > 1 ? `given ${all.length} times, the first is taken` : null),
    })
    if (raw === null) return one(null, 'not given')
    const text = raw.trim()
    if (text === '') return one(null, 'empty, so not given')
    if (text.length > LONGEST) return one(null, `longer than ${LONGEST} characters, so not given`)
    // No row has one: PostgreSQL’s text holds no null character, and half a pair is no character.
    if (text.includes('\0') || !text.isWellFormed())
      return one(null, 'has a character that no text can have, so not given')
    const rule = PARAMETER_RULES[type]
    if (type === 'text' || type === 'path') return one(text, null)
    if (!new RegExp(`^(?:${rule.source})$`).test(text))
      return one(null, `is not ${rule.meaning}, so not given`)
    const read = rule.read(text)
    return read.ok ? one(read.value, null) : one(null, `${read.reason}, so not given`)
  })
}
