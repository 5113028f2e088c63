/** A statement whose values are bound later, request by request; and how TypeORM's QueryBuilder makes one. */
import type { ObjectLiteral, SelectQueryBuilder } from 'typeorm'
import { parameterOf } from '../../../core/queries/clauses.ts'

/** A value to bind: fixed, or found in the request. */
export type Slot =
  | { kind: 'fixed'; value: unknown }
  | { kind: 'parameter'; name: string }
  | { kind: 'offset' }
  | { kind: 'ids' }
  /** A list of ids that another statement finds, within this one. */
  | { kind: 'found-ids' }
  /** A value of the cursor: where the page begins. */
  | { kind: 'cursor'; index: number }
  /** The id of the row of a table that has a value; of estimates only. */
  | { kind: 'related-id'; table: string; column: string; value: Slot }
  /** The ids of the category with this slug and of all below it; of estimates only. */
  | { kind: 'ids-within'; value: Slot }

export interface Statement {
  sql: string
  slots: Slot[]
}

/** What a request gives a statement. */
export interface Binding {
  parameters: Readonly<Record<string, unknown>>
  offset?: number
  ids?: number[]
  cursor?: readonly (string | null)[]
}

export const boundValues = ({ slots }: Statement, binding: Binding): unknown[] =>
  slots.map((slot) => boundValue(slot, binding))

export function boundValue(slot: Slot, binding: Binding): unknown {
  switch (slot.kind) {
    case 'fixed':
      return slot.value
    case 'parameter':
      return binding.parameters[slot.name] ?? null
    case 'offset':
      return binding.offset ?? 0
    case 'ids':
      return binding.ids ?? []
    case 'cursor':
      return binding.cursor?.[slot.index] ?? null
    case 'related-id':
    case 'ids-within':
    case 'found-ids':
      throw new Error('the id is looked up before')
  }
}

export type Builder = SelectQueryBuilder<ObjectLiteral>

/** Stands for a bound value while the statement is built, so that its position can be found. */
export class Marker {
  constructor(readonly slot: Slot) {}
}

export function slotFor(value: unknown): Marker {
  const parameter = parameterOf(value)
  return new Marker(
    parameter === undefined ? { kind: 'fixed', value } : { kind: 'parameter', name: parameter },
  )
}

/** The built SQL with the position of every value. */
export function statement(builder: Builder): Statement {
  const [sql, values] = builder.getQueryAndParameters()
  const slots = values.map((value: unknown): Slot =>
    value instanceof Marker ? value.slot : { kind: 'fixed', value },
  )
  return { sql, slots }
}

/** The statement with another in it: that one's rows, ids, are the list that this one asks by. */
export function nested(outer: Statement, inner: Statement): Statement {
  const slots: Slot[] = []
  const numbered = ({ sql, slots: own }: Statement): string =>
    sql.replace(/\$(\d+)/g, (_whole: string, number: string) => {
      const slot = own[Number(number) - 1]
      if (!slot) throw new Error(`no value for $${number}`)
      if (slot.kind === 'found-ids') return `ARRAY(${numbered(inner)})`
      return `$${slots.push(slot)}`
    })
  return { sql: numbered(outer), slots }
}

/** Adds an offset that is bound later. */
export const withOffset = ({ sql, slots }: Statement): Statement => ({
  sql: `${sql} OFFSET $${slots.length + 1}`,
  slots: [...slots, { kind: 'offset' }],
})
