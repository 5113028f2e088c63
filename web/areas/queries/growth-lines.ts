/** Which lines a measured query draws, and their values. */
import type { GrowthResult } from '../../../contract/growth-result.ts'

export interface GrowthLine {
  name: string
  by: 'number' | 'cursor' | 'whole'
  page: 'first' | 'middle' | 'last'
  index: string | null
}

/** The lines of a result that are worth seeing: its first and last pages, as it is and with the advised index. */
export function linesOf({ measured, advised }: GrowthResult): GrowthLine[] {
  const lines: GrowthLine[] = []
  for (const index of [null, advised?.name ?? null])
    for (const by of ['number', 'cursor', 'whole'] as const)
      for (const page of ['first', 'last'] as const) {
        if (index === null && lines.some((one) => one.index === null && one.by === by && one.page === page))
          continue
        if (!measured.some((one) => one.by === by && one.page === page && one.index === index)) continue
        const way =
          by === 'whole' ? 'all of it' : `by ${by}, ${page === 'first' ? 'first page' : 'last page'}`
        lines.push({ name: `${way}${index === null ? '' : ', with the index'}`, by, page, index })
      }
  return lines
}

export const timeOf = ({ measured }: GrowthResult, line: GrowthLine, size: number): number | undefined =>
  measured.find(
    (one) => one.size === size && one.by === line.by && one.page === line.page && one.index === line.index,
  )?.milliseconds
