/** Where the rows of a result come from: what identifies each in keys of copies, and what it depends on. */
import {
  countSet,
  joinDependences,
  listSet,
  NOTHING,
  rowKey,
  type Dependence,
  type DependedSet,
  whenAsked,
} from '../../../core/caching/dependence.ts'
import { wordOf } from '../../../core/caching/change.ts'
import {
  isNamed,
  keyedInput,
  reachable,
  withProvenance,
  type NamedFields,
  type Provenance,
} from '../../../core/caching/provenance.ts'
import type { QueryMeaning } from '../../../core/queries/meaning.ts'
import { SOURCE } from '../../../core/queries/sources.ts'
import type { SourceName } from '../../../core/shapes/schemas.ts'
import type { CompiledQuery } from './compile-query.ts'

type Row = Record<string, unknown>

/** A query that was run, and the values that it was given. */
interface RanQuery {
  name: string
  meaning: QueryMeaning
  compiled: CompiledQuery
  parameters: Readonly<Record<string, unknown>>
}

/** The value of a search result that depends on the words searched for. */
const EXTRACT = 'found'

/** Where a row comes from. */
class RowProvenance implements Provenance {
  readonly #source: SourceName
  readonly #compiled: CompiledQuery
  readonly #row: Row
  #dependence: Dependence | undefined

  constructor(source: SourceName, compiled: CompiledQuery, row: Row) {
    this.#source = source
    this.#compiled = compiled
    this.#row = row
  }

  key(named: NamedFields): string {
    const row = this.#row
    const extract =
      EXTRACT in row && isNamed(named, EXTRACT) ? keyedInput(row[EXTRACT], named)?.key : undefined
    return `${wordOf(this.#source)}:${Number(row['id'])}/${reachable(this.#compiled.fields, named)}${extract ?? ''}`
  }

  get dependence(): Dependence {
    return (this.#dependence ??= dependenceOfRow(this.#source, this.#compiled.reads, this.#row))
  }
}

/** Attaches to a row, and to its related rows, where they come from. */
export const identifyRow = (source: SourceName, compiled: CompiledQuery, row: Row): Row =>
  withProvenance(row, new RowProvenance(source, compiled, row))

/** A row depends on the fields that were fetched of it and of its related rows, and on what is counted for it. */
function dependenceOfRow(source: SourceName, { shown }: CompiledQuery['reads'], row: Row): Dependence {
  const id = Number(row['id'])
  const rows = new Map<string, ReadonlySet<string>>([[rowKey(source, id), shown.own]])
  for (const [relation, fields] of shown.related) {
    const target = SOURCE[source].relations[relation]?.source
    const related = row[relation]
    for (const one of Array.isArray(related) ? (related as Row[]) : related ? [related as Row] : [])
      if (target && typeof one['id'] === 'number') rows.set(rowKey(target, one['id']), fields)
  }
  const sets = new Map<string, DependedSet>([...shown.counts].map((name) => countSet(source, name, id)))
  const timed = [...shown.counts].some((name) => {
    const count = SOURCE[source].counts[name]
    return count !== undefined && SOURCE[count.source].conditions[count.named]?.timed === true
  })
  return { rows, sets, timed }
}

/** A counted row is not a row of a table: any change of what is counted may change it. */
export const dependOnWhole = (row: Row, dependence: Dependence): Row =>
  withProvenance(row, {
    key: (named) => keyedInput({ ...row }, named)?.key ?? JSON.stringify(row),
    dependence,
  })

/** A result depends on which rows match, on their order and on the rows themselves. */
export const dependenceOfResult = (ran: RanQuery, rows: readonly Row[]): Dependence =>
  whenAsked(() => dependenceOfRows(ran, rows))

function dependenceOfRows(
  { name, meaning, compiled, parameters }: RanQuery,
  rows: readonly Row[],
): Dependence {
  const { reads, state, timeZone } = compiled
  const set = listSet({ name, state, reads, meaning, parameters, timeZone })
  const ofRows =
    meaning.countBy.length > 0 ? [] : rows.map((row) => dependenceOfRow(meaning.from, reads, row))
  return joinDependences([NOTHING, { rows: new Map(), sets: new Map([set]), timed: reads.timed }, ...ofRows])
}
