/** The parameters of a query, typed or taken from an address, and its rows. */
import { useEffect, useEffectEvent, useRef } from 'react'
import { App, Button, Dropdown, Input, InputNumber, Segmented } from 'antd'
import type { QueryRun, QuerySummary } from '../../../contract/queries.ts'
import { call } from '../../api/client.ts'
import { Chip } from '../../shared/marks/marks.tsx'
import { parameterTexts } from '../../shared/queries/query-address.ts'
import { useNotices } from '../../shared/changes/notices.tsx'
import { formatMilliseconds, rowsOf } from '../../shared/words/format.ts'
import type { ChangeSettings } from './run-settings.ts'
import type { RunRequest } from './use-query-run.ts'
import { words } from './words.ts'

const text = words.rows

interface Props {
  name: string
  request: RunRequest
  result: QueryRun | undefined
  problem: string | null
  uses: QuerySummary['uses']
  change: ChangeSettings
}

export function QueryRows({ name, request, result, problem, uses, change }: Props) {
  return (
    <section className="query-rows" aria-label={text.label}>
      <div className="tools-line">
        {(result?.parameters ?? []).map((one) => (
          <label key={one.name} title={text.parameterHint(one.field, one.type, one.optional)}>
            <code>:{one.name}</code>
            <Input
              size="small"
              className="mono"
              aria-label={text.parameter(one.name)}
              placeholder={one.optional ? text.optional : one.type}
              value={request.parameters[one.name] ?? ''}
              onChange={(event) =>
                change({ parameters: { ...request.parameters, [one.name]: event.target.value }, page: 1 })
              }
            />
          </label>
        ))}
        {result?.by === 'cursor' ? (
          <span className="paging" role="group" aria-label={text.byCursor}>
            <Button
              size="small"
              disabled={request.cursor === undefined}
              onClick={() => change({ cursor: undefined })}
            >
              {text.first}
            </Button>
            <Button
              size="small"
              disabled={result.previous === null}
              onClick={() => change({ cursor: result.previous ?? undefined })}
            >
              {text.previous}
            </Button>
            <Button
              size="small"
              disabled={result.next === null}
              onClick={() => change({ cursor: result.next ?? undefined })}
            >
              {text.next}
            </Button>
          </span>
        ) : null}
        {result?.by === 'number' ? (
          <label>
            {text.page}
            <InputNumber
              size="small"
              min={1}
              max={1_000_000}
              aria-label={text.page}
              value={request.page}
              onChange={(page) => change({ page: page ?? 1 })}
            />
          </label>
        ) : null}
        {(result?.parameters.length ?? 0) > 0 ? (
          <FromAddress
            name={name}
            uses={uses}
            isMissing={(result?.parameters ?? []).some(
              (one) => !one.optional && !request.parameters[one.name],
            )}
            take={(parameters) => change({ parameters, page: 1 })}
            suggest={(parameters) =>
              change((known) => ({ parameters: { ...parameters, ...known.parameters } }))
            }
          />
        ) : null}
        <span className="grow" />
        <Segmented
          size="small"
          aria-label={text.as}
          options={[
            { value: 'reader', label: text.reader },
            { value: 'author', label: text.author },
          ]}
          value={request.as}
          onChange={(as: RunRequest['as']) => change({ as })}
        />
      </div>
      {problem !== null ? (
        <p className="quiet small failed" role="alert">
          {problem}
        </p>
      ) : !result ? (
        <p className="quiet small">{text.running}</p>
      ) : result.problems.length > 0 ? (
        <p className="quiet small">{text.invalid}</p>
      ) : (
        <>
          <p className="outcome" role="status">
            {result.count === 0 ? (
              <>
                <Chip tone="look">{text.none}</Chip> {result.why ?? text.noneReturned}
              </>
            ) : (
              <>
                <Chip tone="fine">{rowsOf({ ...result, rows: result.count })}</Chip>{' '}
                <span className="muted">
                  {formatMilliseconds(result.milliseconds)}
                  {result.count > result.rows.length ? text.shown(result.rows.length) : ''}
                  {result.why === null ? '' : ` · ${result.why}`}
                </span>
              </>
            )}
          </p>
          {result.rows.length === 0 ? null : (
            // A wide table scrolls sideways, so the keyboard has to reach it.
            <div className="scroll" tabIndex={0} role="region" aria-label={text.table}>
              <table>
                <thead>
                  <tr>
                    {result.columns.map((column) => (
                      <th key={column} scope="col">
                        {column}
                      </th>
                    ))}
                  </tr>
                </thead>
                <tbody>
                  {result.rows.map((row, index) => (
                    <tr key={index}>
                      {row.map((value, at) => (
                        <td key={at} className={typeof value === 'number' ? 'number' : ''}>
                          {value === null ? <span className="muted">null</span> : String(value)}
                        </td>
                      ))}
                    </tr>
                  ))}
                </tbody>
              </table>
            </div>
          )}
        </>
      )}
    </section>
  )
}

interface FromAddressProps {
  name: string
  uses: QuerySummary['uses']
  /** Whether a required parameter has no value. */
  isMissing: boolean
  take(parameters: Record<string, string>): void
  /** Fills in parameters that have no value yet. */
  suggest(parameters: Record<string, string>): void
}

/** Takes the parameters from a walk of an address that runs the query. */
function FromAddress({ name, uses, isMissing, take, suggest }: FromAddressProps) {
  const { message } = App.useApp()
  const notices = useNotices()
  const examples = uses.filter((one) => one.example !== null)
  const walk = async (path: string, data: string, isAutomatic = false) => {
    try {
      const record = await call('GET /api/walk', { query: { path } })
      const run = record.queries.runs.find((one) => one.data === data && one.query === name)
      if (!run || run.outcome === 'not-run') {
        if (!isAutomatic) void message.info(text.notRunThere(path))
      } else (isAutomatic ? suggest : take)(parameterTexts(run.parameters))
    } catch (error) {
      if (!isAutomatic) notices.failed(error)
    }
  }
  // A query that is opened shows rows at once, with the parameters of its first address.
  const [example] = examples
  const isDone = useRef(false)
  const walkFirst = useEffectEvent(() => {
    if (isDone.current || !isMissing || !example?.example) return
    isDone.current = true
    void walk(example.example, example.data, true)
  })
  useEffect(() => walkFirst(), [])
  if (examples.length === 0) return null
  return (
    <Dropdown
      trigger={['click']}
      menu={{
        items: examples.map(({ route, data, example }) => ({
          key: `${route} ${data}`,
          label: <code>{example}</code>,
          onClick: () => void walk(example ?? '/', data),
        })),
      }}
    >
      <Button size="small">{text.fromAddress}</Button>
    </Dropdown>
  )
}
