/** Shows the difference of two texts: removed lines, added lines, and a few lines around them. */
import { lineChanges, type LineChange } from './line-changes.ts'
import { words } from '../words/words.ts'
import './diff.css'

/** How many unchanged lines are shown around a change. */
const CONTEXT = 2

export function Diff({ changes }: { changes: readonly LineChange[] }) {
  return (
    <pre className="diff" tabIndex={0}>
      {changes.map((one, index) => (
        <Lines key={index} change={one} isFirst={index === 0} isLast={index === changes.length - 1} />
      ))}
    </pre>
  )
}

/** Shows the change of a document. */
export function DocumentDiff({
  document,
  before,
  after,
}: {
  document: string
  before: string
  /** null if the document is deleted. */
  after: string | null
}) {
  const linesOf = (text: string) => text.replace(/\n$/, '').split('\n')
  return (
    <figure className="document-diff">
      <figcaption>
        <code>{document}</code>
        <span className="muted">
          {after === null ? words.editor.isDeleted : before === '' ? words.editor.isNew : ''}
        </span>
      </figcaption>
      <Diff
        changes={
          after === null
            ? [{ kind: 'removed', lines: linesOf(before) }]
            : before === ''
              ? [{ kind: 'added', lines: linesOf(after) }]
              : lineChanges(before, after)
        }
      />
    </figure>
  )
}

function Lines({ change, isFirst, isLast }: { change: LineChange; isFirst: boolean; isLast: boolean }) {
  const { kind, lines } = change
  if (kind !== 'same')
    return lines.map((line, index) => (
      <div key={index} className={kind}>
        {kind === 'added' ? '+ ' : '− '}
        {line}
      </div>
    ))
  const head = isFirst ? [] : lines.slice(0, CONTEXT)
  const tail = isLast ? [] : lines.slice(Math.max(head.length, lines.length - CONTEXT))
  const left = lines.length - head.length - tail.length
  return (
    <>
      {head.map((line, index) => (
        <div key={`h${index}`}>
          {'  '}
          {line}
        </div>
      ))}
      {left > 0 ? <div className="gap">{words.editor.unchangedLines(left)}</div> : null}
      {tail.map((line, index) => (
        <div key={`t${index}`}>
          {'  '}
          {line}
        </div>
      ))}
    </>
  )
}
