/** A statement whose values are bound later, for each request. */
import type { ObjectLiteral, SelectQueryBuilder } from 'typeorm'
import { searchText } from '../../../core/queries/search-text.ts'
import type { PlanValue } from '../../../core/queries/plan.ts'

/** A value to bind: fixed, or found in the request. */
export type Slot =
  | PlanValue
  | { kind: 'offset' }
  | { kind: 'limit' }
  | { kind: 'ids' }
  /** The ids that a nested statement finds. */
  | { kind: 'found-ids' }
  /** A value of the cursor at which the page starts. */
  | { kind: 'cursor'; index: number }
  /** The id of the row of a table that has a value; for estimates only. */
  | { kind: 'related-id'; table: string; column: string; value: Slot }
  /** The ids of the category with this slug and of those below it; for estimates only. */
  | { kind: 'ids-within'; value: Slot }

export interface Statement {
  sql: string
  slots: Slot[]
}

/** What a request provides for a statement. */
export interface Binding {
  parameters: Readonly<Record<string, unknown>>
  offset?: number
  limit?: number
  ids?: number[]
  cursor?: readonly (string | null)[]
}

export const boundValues = ({ slots }: Statement, binding: Binding): unknown[] =>
  slots.map((slot) => boundValue(slot, binding))

export function boundValue(slot: Slot, binding: Binding): unknown {
  switch (slot.kind) {
    case 'fixed':
      return slot.value
    case 'parameter': {
      const value = binding.parameters[slot.name] ?? null
      return slot.isSearch && typeof value === 'string' ? searchText(value) : value
    }
    case 'offset':
      return binding.offset ?? 0
    case 'limit':
      return binding.limit ?? null
    case 'ids':
      return binding.ids ?? []
    case 'cursor':
      return binding.cursor?.[slot.index] ?? null
    case 'related-id':
    case 'ids-within':
    case 'found-ids':
      throw new Error('These ids are looked up before the statement runs')
  }
}

export type Builder = SelectQueryBuilder<ObjectLiteral>

/** Stands for a value while a statement is built, so that its position can be found. */
export class Marker {
  constructor(readonly slot: Slot) {}
}

export const slotOf = (value: PlanValue): Slot => value

/** Returns the SQL of a builder, with the position of every value. */
export function statement(builder: Builder): Statement {
  const [sql, values] = builder.getQueryAndParameters()
  const slots = values.map((value: unknown): Slot =>
    value instanceof Marker ? value.slot : { kind: 'fixed', value },
  )
  return { sql, slots }
}

/** Nests a statement in another one, in which its ids take the place of `found-ids`. */
export function nested(outer: Statement, inner: Statement): Statement {
  const slots: Slot[] = []
  const numbered = ({ sql, slots: own }: Statement): string =>
    sql.replace(/\$(\d+)/g, (_whole: string, number: string) => {
      const slot = own[Number(number) - 1]
      if (!slot) throw new Error(`No value for $${number}`)
      if (slot.kind === 'found-ids') return `ARRAY(${numbered(inner)})`
      return `$${slots.push(slot)}`
    })
  return { sql: numbered(outer), slots }
}

/** Appends text with further values, which `at` numbers. */
export function extended(
  { sql, slots }: Statement,
  write: (sql: string, at: (slot: Slot) => string) => string,
): Statement {
  const all = [...slots]
  return { sql: write(sql, (slot) => `$${all.push(slot)}`), slots: all }
}

/** Adds an offset that is bound later. */
export const withOffset = (one: Statement): Statement =>
  extended(one, (sql, at) => `${sql} OFFSET ${at({ kind: 'offset' })}`)
