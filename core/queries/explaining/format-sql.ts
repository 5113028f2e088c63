/** Formats a statement for display: one clause per line, and quotes only where they are needed. */
const CLAUSES = /\s+(FROM|LEFT JOIN|INNER JOIN|WHERE|GROUP BY|ORDER BY|LIMIT)\s+/g

/**
 * Returns the formatted statement. It is for display only.
 * @param columns number of selected columns to show; the others are counted
 */
export function formatSql(sql: string, columns = Infinity): string {
  const text = layOut(sql)
  const list = /^SELECT ([\s\S]*?)(?=\nFROM )/.exec(text)?.[1]
  const all = list?.split(/, (?![^(]*\))/) ?? []
  if (list === undefined || all.length <= columns + 1) return text
  return text.replace(list, () => `${all.slice(0, columns).join(', ')}, … ${all.length - columns} more`)
}

function layOut(sql: string): string {
  return sql
    .replace(/"([a-z_][a-z0-9_]*)"/g, '$1')
    .replace(/\(\s*([a-z_]+\.[a-z_]+)\s*\)/g, '$1')
    .replace(/\b([a-z_]+\.([a-z_]+)) AS \2\b/g, '$1')
    .replace(/(\s)"(\w+)"(?=[\s,])/g, '$1$2')
    .replace(/\s+/g, ' ')
    .replace(/\b(FROM|JOIN) (\w+) \2\b/g, '$1 $2')
    .replace(CLAUSES, (_, clause: string) => `\n${clause} `)
    .replace(/\(SELECT([^()]|\([^()]*\))*\)/g, (nested) => nested.replace(/\n/g, ' '))
    .trim()
}
