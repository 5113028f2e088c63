/** Describes steps: the rows that were changed, by their titles, and their fields before and after. */
import type { ChangedField, ChangedRow, StepItem } from '../../../contract/changes.ts'
import type { Step, StepEntry } from '../../store/changes/steps.ts'

/** Names of rows by table and id, e.g. `category 5` → “Bicycles”. */
export type RowNames = ReadonlyMap<string, string>

/** The tables that columns refer to. */
const REFERS: Readonly<Record<string, string>> = {
  category_id: 'category',
  author_id: 'author',
  image_id: 'image',
  post_id: 'post',
  tag_id: 'tag',
}
const tableOf = (source: string, column: string) => (column === 'parent_id' ? source : REFERS[column])

/** Returns the rows that entries refer to, by table. */
export function referredRows(entries: readonly StepEntry[]): Map<string, Set<number>> {
  const ids = new Map<string, Set<number>>()
  for (const { source, before, after } of entries)
    for (const row of [before, after])
      for (const [column, value] of Object.entries(row ?? {})) {
        const table = tableOf(source, column)
        if (table === undefined || typeof value !== 'number') continue
        const known = ids.get(table)
        if (known) known.add(value)
        else ids.set(table, new Set([value]))
      }
  return ids
}

export function describeStep(
  { id, at, origin, undoes, entries, total, documents }: Step,
  undone: ReadonlyMap<string, string>,
  names: RowNames,
): StepItem {
  return {
    id,
    at: at.toISOString(),
    isOutside: origin === null,
    of: documents === 0 ? 'content' : documents === total ? 'definition' : 'both',
    rows: entries.map((entry) => describeRow(entry, names)),
    total,
    undoes,
    undoneBy: undone.get(id) ?? null,
  }
}

function describeRow({ source, rowId, before, after, fields }: StepEntry, rowNames: RowNames): ChangedRow {
  const row = after ?? before ?? {}
  const title = row['title'] ?? row['name'] ?? row['path'] ?? row['slug'] ?? String(rowId)
  const known = new Set([...Object.keys(before ?? {}), ...Object.keys(after ?? {})])
  const names = fields?.filter((one) => known.has(one)) ?? [...known]
  return {
    table: source,
    title: String(title),
    kind:
      before === null && after === null
        ? 'deleted'
        : before === null
          ? 'created'
          : after === null
            ? 'deleted'
            : 'changed',
    fields: names.flatMap((name): ChangedField[] => {
      const table = tableOf(source, name)
      const shown = (value: unknown) => textOf((table && rowNames.get(`${table} ${String(value)}`)) ?? value)
      const [was, is] = [shown(before?.[name]), shown(after?.[name])]
      // Long texts can be equal up to where they are cut.
      return fields === null && was === is ? [] : [{ name: name.replace(/_id$/, ''), before: was, after: is }]
    }),
  }
}

function textOf(value: unknown): string | null {
  if (value === undefined || value === null || value === '') return null
  if (typeof value === 'boolean') return value ? 'yes' : 'no'
  return typeof value === 'string' ? value : JSON.stringify(value)
}
