/** Describes steps: the rows that were changed, by their titles, and their fields before and after. */
import type { ChangedField, ChangedRow, StepItem } from '../../../contract/changes.ts'
import { shorten } from '../../../core/content/text.ts'
import type { Step, StepEntry } from '../../store/changes/steps.ts'

/** Columns that follow from others, or that only the product reads. */
const DERIVED = new Set([
  'id',
  'version',
  'updated_at',
  'created_at',
  'html',
  'pipeline',
  'search',
  'word_count',
  'former_published_at',
  'once',
  'added_at',
  'rows',
  'links',
])

/** Rows that follow from others: links, former slugs and the rows of the bin. */
const FOLLOWING = new Set(['post_tag', 'former_slug', 'deleted_row'])

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

/** @param longest how long a value may be, in characters; longer ones are shortened */
export function describeStep(
  { id, at, origin, undoes, entries, total }: Step,
  undone: ReadonlyMap<string, string>,
  names: RowNames,
  longest: number,
): StepItem {
  const isDefinition = (one: StepEntry) => one.source === 'document'
  const definition = entries.filter(isDefinition).length
  const own = entries.filter((one) => !FOLLOWING.has(one.source))
  return {
    id,
    at: at.toISOString(),
    isOutside: origin === null,
    of: definition === 0 ? 'content' : definition === entries.length ? 'definition' : 'both',
    rows: (own.length > 0 ? own : entries).map((entry) => describeRow(entry, names, longest)),
    total,
    undoes,
    undoneBy: undone.get(id) ?? null,
  }
}

function describeRow(
  { source, rowId, before, after, fields }: StepEntry,
  rowNames: RowNames,
  longest: number,
): ChangedRow {
  const row = after ?? before ?? {}
  const title = row['title'] ?? row['name'] ?? row['path'] ?? row['slug'] ?? String(rowId)
  const names = (fields ?? Object.keys(row)).filter((one) => !DERIVED.has(one))
  return {
    table: source,
    title: String(title),
    kind: before === null ? 'created' : after === null ? 'deleted' : 'changed',
    fields: names.flatMap((name): ChangedField[] => {
      const table = tableOf(source, name)
      const shown = (value: unknown) =>
        textOf((table && rowNames.get(`${table} ${String(value)}`)) ?? value, longest)
      const [was, is] = [shown(before?.[name]), shown(after?.[name])]
      return was === is ? [] : [{ name: name.replace(/_id$/, ''), before: was, after: is }]
    }),
  }
}

function textOf(value: unknown, longest: number): string | null {
  if (value === undefined || value === null || value === '') return null
  if (typeof value === 'boolean') return value ? 'yes' : 'no'
  const text = typeof value === 'string' ? value : JSON.stringify(value)
  return text.length > longest ? shorten(text, longest) : text
}
