/** Rows in some order, and those that come after or before one of them, as a condition in SQL. */
import type { FieldType } from '../../../core/queries/sources.ts'
import type { Builder } from './statement.ts'

/** What rows are ordered by; rows without a value come last, whichever way the others go. */
export interface SqlKey {
  expression: string
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
 * @param keys the last of them makes the order total
 * @param bind notes the cursor's value with this index, and gives what stands for it
 */
export function keysetSql(
  keys: readonly SqlKey[],
  toward: 'after' | 'before',
  bind: (index: number) => string,
): string {
  const value = (index: number) => `CAST(${bind(index)} AS ${CAST[keys[index]?.type ?? 'text'] ?? 'text'})`
  const isRising = ({ descending }: SqlKey) => descending === (toward === 'before')
  const [first] = keys
  if (!first) throw new Error('rows without an order have no place to begin after')
  if (keys.every((one) => !one.nullable && one.descending === first.descending)) {
    // One comparison of rows, which an index on the same columns serves from its first match on (PostgreSQL 9.24.5).
    const left = keys.map((one) => one.expression).join(', ')
    const right = keys.map((_, index) => value(index)).join(', ')
    return `(${left}) ${isRising(first) ? '>' : '<'} (${right})`
  }
  const beyond = (key: SqlKey, index: number): string => {
    const { expression, nullable } = key
    const plain = `${expression} ${isRising(key) ? '>' : '<'} ${value(index)}`
    if (!nullable) return plain
    return toward === 'after'
      ? `(${plain} OR (${expression} IS NULL AND ${value(index)} IS NOT NULL))`
      : `(${plain} OR (${expression} IS NOT NULL AND ${value(index)} IS NULL))`
  }
  const same = ({ expression, nullable }: SqlKey, index: number) =>
    `${expression} ${nullable ? 'IS NOT DISTINCT FROM' : '='} ${value(index)}`
  return `(${keys
    .map((key, index) => [...keys.slice(0, index).map(same), beyond(key, index)].join(' AND '))
    .map((one) => `(${one})`)
    .join(' OR ')})`
}

/** Rows without a value come last, whichever way the others go. */
export function ordered(builder: Builder, keys: readonly SqlKey[], isReversed: boolean): Builder {
  for (const { expression, descending, nullable } of keys)
    builder.addOrderBy(
      expression,
      descending === isReversed ? 'ASC' : 'DESC',
      // Where none is null, the index serves the order as it is.
      ...(nullable ? ([isReversed ? 'NULLS FIRST' : 'NULLS LAST'] as const) : []),
    )
  return builder
}
