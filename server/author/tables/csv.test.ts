// CSV tables against csv-spectrum (npm, BSD-2-Clause): its JSON, written by our code, is read back by another library
// (csv-parse), and so are the suite’s own files.
import { readdirSync, readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { dirname, join } from 'node:path'
import { parse } from 'csv-parse/sync'
import { describe, expect, it } from 'vitest'
import { csvRows } from './csv.ts'

const folder = dirname(createRequire(import.meta.url).resolve('csv-spectrum'))
// Its coordinates are numbers in the JSON but quoted in the CSV, which is an error of the suite.
const names = readdirSync(join(folder, 'csvs'))
  .map((file) => file.replace(/\.csv$/, ''))
  .filter((name) => name !== 'location_coordinates')

describe.each(names)('csv-spectrum: %s', (name) => {
  const rows = JSON.parse(readFileSync(join(folder, 'json', `${name}.json`), 'utf8')) as Record<
    string,
    string
  >[]
  const heading = Object.keys(rows[0] ?? {})
  const cells = rows.map((row) => heading.map((key) => row[key] ?? ''))
  it('is read back as it was written', () => {
    const text = csvRows([heading]) + csvRows(cells)
    expect(parse(text, { columns: true })).toEqual(rows)
    // RFC 4180 §2: lines end with CRLF.
    expect(text.endsWith('\r\n')).toBe(true)
  })
  it('equals the suite’s file', () => {
    const theirs = readFileSync(join(folder, 'csvs', `${name}.csv`), 'utf8')
    expect(parse(csvRows([heading]) + csvRows(cells))).toEqual(parse(theirs))
  })
})

it.each(['=1+1', '+1', '-1', '@SUM(1)', '\tx', '\rx'])(
  '%j is no formula in a spreadsheet (OWASP, CSV injection)',
  (text) => {
    expect(parse(csvRows([[text, 'a']]))).toEqual([[`'${text}`, 'a']])
  },
)
it('numbers stay numbers, and booleans are words', () => {
  expect(csvRows([[-1, 0, true, false]])).toBe('-1,0,yes,no\r\n')
})
