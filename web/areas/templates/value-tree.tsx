/** The values at the line of the cursor, with their types: a table whose rows can be opened. */
import { Button } from 'antd'
import { useState } from 'react'
import type { ShownValue, TemplatePreview } from '../../../contract/templates.ts'
import { Copy } from '../../shared/marks/marks.tsx'
import { words } from './words.ts'

const text = words.values

interface Props {
  answer: TemplatePreview
  line: number
  /** Which of several renderings of the template is shown. */
  time: number
  chooseTime(time: number): void
}

/** Returns the scope at a line: that of the nearest line before it, since a value may span several lines. */
export function scopeAt({ lines, scopes }: TemplatePreview, line: number) {
  const at = lines.findLast((one) => one.line <= line) ?? lines[0]
  const scope = at && scopes[at.scope]
  return scope && { ...scope, isRendered: at.isRendered, line: at.line }
}

export function ValueTree({ answer, line, time, chooseTime }: Props) {
  const [open, setOpen] = useState<ReadonlySet<string>>(new Set())
  const scope = scopeAt(answer, line)
  if (!scope) return <p className="quiet small">{text.none}</p>
  const toggle = (path: string) =>
    setOpen((known) => {
      const next = new Set(known)
      if (!next.delete(path)) next.add(path)
      return next
    })
  const { rows } = scope
  const shown = rows.filter((_, index) => ancestorsOf(rows, index).every((one) => open.has(one.path)))
  return (
    <>
      <div className="about muted">
        <span>
          {text.line(line)} {scope.isRendered ? '' : text.notRendered}
        </span>
        {answer.times > 1 ? (
          <span className="times">
            <Button
              size="small"
              type="text"
              aria-label={words.preview.previous}
              disabled={time <= 1}
              onClick={() => chooseTime(time - 1)}
            >
              ‹
            </Button>
            {words.preview.time(time, answer.times)}
            <Button
              size="small"
              type="text"
              aria-label={words.preview.next}
              disabled={time >= answer.times}
              onClick={() => chooseTime(time + 1)}
            >
              ›
            </Button>
          </span>
        ) : null}
      </div>
      <table className="values">
        <tbody>
          {shown.map((row) => (
            <Row
              key={row.path}
              row={row}
              isOpen={open.has(row.path)}
              hasMore={hasMore(rows, row)}
              toggle={() => toggle(row.path)}
            />
          ))}
        </tbody>
      </table>
      {scope.isCut ? <p className="about muted">{text.cut}</p> : null}
    </>
  )
}

/** The rows around a row. */
function ancestorsOf(rows: readonly ShownValue[], index: number): ShownValue[] {
  const found: ShownValue[] = []
  let depth = rows[index]?.depth ?? 0
  for (let at = index - 1; at >= 0 && depth > 0; at--) {
    const row = rows[at]
    if (row && row.depth < depth) {
      found.push(row)
      depth = row.depth
    }
  }
  return found
}

const hasMore = (rows: readonly ShownValue[], row: ShownValue) =>
  (rows[rows.indexOf(row) + 1]?.depth ?? 0) > row.depth

function Row({
  row,
  isOpen,
  hasMore: isParent,
  toggle,
}: {
  row: ShownValue
  isOpen: boolean
  hasMore: boolean
  toggle(): void
}) {
  const { name, path, depth, type, canBeEmpty, value, isEmpty } = row
  return (
    <tr>
      <th scope="row" style={{ paddingLeft: 12 + depth * 16 }}>
        {isParent ? (
          <Button
            size="small"
            type="text"
            className="opener"
            aria-expanded={isOpen}
            aria-label={isOpen ? text.close(path) : text.open(path)}
            onClick={toggle}
          >
            {isOpen ? '−' : '+'}
          </Button>
        ) : (
          <span className="opener" />
        )}
        <code>{name}</code>
      </th>
      <td className={canBeEmpty ? 'look' : 'muted'}>{canBeEmpty ? text.orNothing(type) : type}</td>
      <td className={value === null || isEmpty ? 'muted' : ''} title={value ?? undefined}>
        {value === null ? text.unknown : isEmpty ? text.empty : value}
      </td>
      <td>
        <Copy text={path} what={path} />
      </td>
    </tr>
  )
}
