/** Runs TypeORM code as it would be copied into another project. */
import type { DataSource } from 'typeorm'
import * as entities from '../store/entities/content.ts'

const AsyncFunction = Object.getPrototypeOf(async () => Promise.resolve()).constructor as new (
  ...words: string[]
) => (...values: unknown[]) => Promise<unknown>

/** @param after sort keys of the row that a cursor page starts after @returns its rows, and its total */
export async function runCode(
  database: DataSource,
  code: string,
  parameters: object,
  page: number,
  after: unknown[] | null = null,
): Promise<{ rows: Record<string, unknown>[]; total: number | null }> {
  const end = `return { rows: typeof entities !== 'undefined' ? entities : typeof rows !== 'undefined' ? rows : row === null ? [] : [row], total: typeof total === 'undefined' ? null : total }`
  const names = Object.keys(entities)
  const made = new AsyncFunction('database', 'parameters', 'page', 'after', ...names, `${code}\n${end}`)
  return (await made(database, parameters, page, after, ...Object.values(entities))) as {
    rows: Record<string, unknown>[]
    total: number | null
  }
}
