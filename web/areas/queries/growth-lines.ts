/** The lines of a measured query in the chart and the table. */
import type { GrowthResult } from '../../../contract/growth-result.ts'
import { words } from './words.ts'

const text = words.growth

export interface GrowthLine {
  name: string
  by: 'number' | 'cursor' | 'whole'
  page: 'first' | 'middle' | 'last'
  index: string | null
}

/** Returns a result's lines: first and last pages, without an additional index and with the advised one. */
export function linesOf({ measured, advised }: GrowthResult): GrowthLine[] {
  const lines: GrowthLine[] = []
  for (const index of [null, advised?.name ?? null])
    for (const by of ['number', 'cursor', 'whole'] as const)
      for (const page of ['first', 'last'] as const) {
        if (index === null && lines.some((one) => one.index === null && one.by === by && one.page === page))
          continue
        if (!measured.some((one) => one.by === by && one.page === page && one.index === index)) continue
        const pages = by === 'number' ? text.byNumber : text.byCursor
        const name =
          by === 'whole' ? text.whole : `${pages}, ${page === 'first' ? text.firstPage : text.lastPage}`
        lines.push({ name: index === null ? name : `${name}, ${text.withIndex}`, by, page, index })
      }
  return lines
}

/** Returns the milliseconds of a line at a size of the blog. */
export const timeOf = ({ measured }: GrowthResult, line: GrowthLine, size: number): number | undefined =>
  measured.find(
    (one) => one.size === size && one.by === line.by && one.page === line.page && one.index === line.index,
  )?.milliseconds
