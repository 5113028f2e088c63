/** SQL statements, formatted for reading. */
import { useState } from 'react'
import { formatSql } from '../../../core/queries/explaining/format-sql.ts'
import { words } from '../words/words.ts'

const KEYWORDS =
  /\b(SELECT|FROM|LEFT JOIN|INNER JOIN|WHERE|AND|OR|ON|AS|ORDER BY|ASC|DESC|NULLS LAST|LIMIT|OFFSET|EXISTS|IS NOT NULL|IS NULL|IN|ANY)\b/
const TOKENS = new RegExp(`${KEYWORDS.source}|(\\$\\d+)|(\\b\\w+\\(\\))`, 'g')

/** How many columns are shown at first. The conditions matter more. */
const SHOWN_COLUMNS = 4

/** Shows a statement with its bound values in their places. */
export function Sql({ sql, values }: { sql: string; values: readonly unknown[] }) {
  const [isWhole, setWhole] = useState(false)
  const text = formatSql(sql, isWhole ? Infinity : SHOWN_COLUMNS)
  const parts: React.ReactNode[] = []
  let last = 0
  for (const found of text.matchAll(TOKENS)) {
    parts.push(text.slice(last, found.index))
    const [whole, keyword, slot] = found
    if (keyword !== undefined) parts.push(<b key={found.index}>{whole}</b>)
    else if (slot !== undefined)
      parts.push(
        <u key={found.index} title={words.boundAs(slot)}>
          {literal(values[Number(slot.slice(1)) - 1])}
        </u>,
      )
    else parts.push(<u key={found.index}>{whole}</u>)
    last = found.index + whole.length
  }
  parts.push(text.slice(last))
  return (
    <pre>
      {parts}
      {isWhole || !text.includes('…') ? null : (
        <>
          {'\n'}
          <button className="link columns" onClick={() => setWhole(true)}>
            {words.allColumns}
          </button>
        </>
      )}
    </pre>
  )
}

function literal(value: unknown): string {
  if (value === null || value === undefined) return 'NULL'
  if (typeof value === 'number' || typeof value === 'boolean') return String(value)
  // An empty ARRAY[] has no type. This literal takes the type that it is compared with.
  if (Array.isArray(value) && value.length === 0) return "'{}'"
  if (Array.isArray(value)) return `ARRAY[${value.map(literal).join(', ')}]`
  return `'${String(value).replaceAll("'", "''")}'`
}

/** Returns the statement with its values written out, for a database console. */
export const withValues = (sql: string, values: readonly unknown[]) =>
  `${sql.replace(/\$(\d+)/g, (_, number: string) => literal(values[Number(number) - 1]))};`
