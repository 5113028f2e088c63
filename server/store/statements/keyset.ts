/** The rows after or before a row, in the order of a query, as an SQL condition (keyset pagination). */
import type { FieldType } from '../../../core/queries/sources.ts'

/** A sort key as SQL. Rows without a value come last in either direction. */
export interface SqlKey {
  sql: string
  descending: boolean
  nullable: boolean
  type: FieldType
}

const CAST: Partial<Record<FieldType, string>> = {
  integer: 'int',
  time: 'timestamptz',
  boolean: 'boolean',
  relevance: 'double precision',
}

/**
 * Returns the condition for the rows beyond a cursor.
 * @param keys the last one makes the order total
 * @param bind notes the cursor's value at an index and returns its placeholder
 */
export function keysetSql(
  keys: readonly SqlKey[],
  toward: 'after' | 'before',
  bind: (index: number) => string,
): string {
  const value = (index: number) => `CAST(${bind(index)} AS ${CAST[keys[index]?.type ?? 'text'] ?? 'text'})`
  const isRising = ({ descending }: SqlKey) => descending === (toward === 'before')
  const [first] = keys
  if (!first) throw new Error('A cursor needs an order')
  if (keys.every((one) => !one.nullable && one.descending === first.descending)) {
    // A row comparison, which an index on the same columns serves from its first match (PostgreSQL manual, 9.24.5).
    const left = keys.map((one) => one.sql).join(', ')
    const right = keys.map((_, index) => value(index)).join(', ')
    return `(${left}) ${isRising(first) ? '>' : '<'} (${right})`
  }
  const beyond = (key: SqlKey, index: number): string => {
    const { sql, nullable } = key
    const plain = `${sql} ${isRising(key) ? '>' : '<'} ${value(index)}`
    if (!nullable) return plain
    return toward === 'after'
      ? `(${plain} OR (${sql} IS NULL AND ${value(index)} IS NOT NULL))`
      : `(${plain} OR (${sql} IS NOT NULL AND ${value(index)} IS NULL))`
  }
  const same = ({ sql, nullable }: SqlKey, index: number) =>
    `${sql} ${nullable ? 'IS NOT DISTINCT FROM' : '='} ${value(index)}`
  return `(${keys
    .map((key, index) => [...keys.slice(0, index).map(same), beyond(key, index)].join(' AND '))
    .map((one) => `(${one})`)
    .join(' OR ')})`
}
