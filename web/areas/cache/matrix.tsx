/** What refreshes what: rules and kinds of change. */
import { CHANGE_COLUMNS } from '../../../core/caching/matrix.ts'
import type { RuleItem } from '../../../contract/cache.ts'
import { words } from './words.ts'

const text = words.matrix

/** @param rules undefined while they are computed */
export function Matrix({ rules }: { rules: readonly RuleItem[] | undefined }) {
  if (!rules) return <p className="quiet small">{text.pending}</p>
  const shown = rules.filter((one) => one.cells !== null)
  if (shown.length === 0) return <p className="quiet small">{text.empty}</p>
  return (
    <div className="scroll matrix" tabIndex={0} role="group" aria-label={text.title}>
      <table>
        <thead>
          <tr>
            <td />
            {CHANGE_COLUMNS.map((one) => (
              <th key={one} scope="col">
                {text.columns[one]}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {shown.map(({ kind, name, cells }) => (
            <tr key={`${kind} ${name}`} className={Object.values(cells ?? {}).includes('gap') ? 'aged' : ''}>
              <th scope="row">
                {kind === 'page' ? <span className="muted plain-weight">page · </span> : null}
                {name}
              </th>
              {CHANGE_COLUMNS.map((column) => {
                const cell = cells?.[column] ?? 'none'
                return (
                  <td key={column}>
                    <span
                      className={`dot ${cell}`}
                      role="img"
                      aria-label={text.cells[cell]}
                      title={text.cells[cell]}
                    />
                  </td>
                )
              })}
            </tr>
          ))}
        </tbody>
      </table>
      <p className="legend muted">
        {(['refreshed', 'gap', 'part', 'none'] as const).map((cell) => (
          <span key={cell}>
            <span className={`dot ${cell}`} aria-hidden="true" /> {text.cells[cell]}
          </span>
        ))}
      </p>
      <p className="legend muted">
        {text.legend} {text.timeHelp} {text.definition}
      </p>
    </div>
  )
}

/** Returns the number of rules and kinds of change for which only age refreshes what is shown. */
export const gapsIn = (rules: readonly RuleItem[]): number =>
  rules.reduce((sum, { cells }) => sum + Object.values(cells ?? {}).filter((one) => one === 'gap').length, 0)
