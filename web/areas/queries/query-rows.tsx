/** Parameters of a query, by value or from an address, and the rows that come back. */
import { useQueryClient } from '@tanstack/react-query'
import { useEffect, useEffectEvent, useRef } from 'react'
import { App, Button, Dropdown, Input, InputNumber, Segmented } from 'antd'
import type { QuerySummary, QueryTrial } from '../../../contract/operations.ts'
import { call } from '../../api/client.ts'
import { Chip } from '../../shared/marks/marks.tsx'
import { parameterTexts } from '../../shared/queries/query-address.ts'
import { whyRefused } from '../../shared/words/why-refused.ts'
import { asSentence, formatMilliseconds, rowsOf } from '../../shared/words/words.ts'
import type { ChangeAsked } from './asked.ts'
import type { Trial } from './use-trial.ts'

interface Props {
  name: string
  trial: Trial
  result: QueryTrial | undefined
  problem: string | null
  uses: QuerySummary['uses']
  change: ChangeAsked
}

export function QueryRows({ name, trial, result, problem, uses, change }: Props) {
  return (
    <section className="query-rows" aria-label="Rows">
      <div className="tools-line">
        {(result?.parameters ?? []).map((one) => (
          <label
            key={one.name}
            title={`compared with ${one.field}, ${one.type}${one.optional ? '; may be left out' : ''}`}
          >
            <code>:{one.name}</code>
            <Input
              size="small"
              className="mono"
              aria-label={`Parameter ${one.name}`}
              placeholder={one.optional ? 'not given' : one.type}
              value={trial.parameters[one.name] ?? ''}
              onChange={(event) =>
                change({ parameters: { ...trial.parameters, [one.name]: event.target.value }, page: 1 })
              }
            />
          </label>
        ))}
        {result?.by === 'cursor' ? (
          <span className="turning" role="group" aria-label="Pages by cursor">
            <Button
              size="small"
              disabled={trial.cursor === undefined}
              onClick={() => change({ cursor: undefined })}
            >
              Beginning
            </Button>
            <Button
              size="small"
              disabled={result.previous === null}
              onClick={() => change({ cursor: result.previous ?? undefined })}
            >
              Before
            </Button>
            <Button
              size="small"
              disabled={result.next === null}
              onClick={() => change({ cursor: result.next ?? undefined })}
            >
              After
            </Button>
          </span>
        ) : null}
        {result?.by === 'number' ? (
          <label>
            page
            <InputNumber
              size="small"
              min={1}
              max={1_000_000}
              aria-label="Page"
              value={trial.page}
              onChange={(page) => change({ page: page ?? 1 })}
            />
          </label>
        ) : null}
        {(result?.parameters.length ?? 0) > 0 ? (
          <FromAddress
            name={name}
            uses={uses}
            isMissing={(result?.parameters ?? []).some((one) => !one.optional && !trial.parameters[one.name])}
            take={(parameters) => change({ parameters, page: 1 })}
            suggest={(parameters) =>
              change((known) => ({ parameters: { ...parameters, ...known.parameters } }))
            }
          />
        ) : null}
        <span className="grow" />
        <Segmented
          size="small"
          aria-label="As whom"
          options={[
            { value: 'reader', label: 'reader' },
            { value: 'author', label: 'author' },
          ]}
          value={trial.as}
          onChange={(as: Trial['as']) => change({ as })}
        />
      </div>
      {problem !== null ? (
        <p className="quiet small failed" role="alert">
          {problem}
        </p>
      ) : !result ? (
        <p className="quiet small">Asking …</p>
      ) : result.problems.length > 0 ? (
        <p className="quiet small">It runs as soon as it is whole again; what is wrong is marked above.</p>
      ) : (
        <>
          <p className="outcome" role="status">
            {result.count === 0 ? (
              <>
                <Chip tone="look">no rows</Chip> {asSentence(result.why ?? 'nothing came')}
              </>
            ) : (
              <>
                <Chip tone="fine">{rowsOf({ ...result, rows: result.count })}</Chip>{' '}
                <span className="muted">
                  {formatMilliseconds(result.milliseconds)}
                  {result.count > result.rows.length ? `; the first ${result.rows.length} are shown` : ''}
                  {result.why === null ? '' : ` · ${asSentence(result.why)}`}
                </span>
              </>
            )}
          </p>
          {result.rows.length === 0 ? null : (
            // A wide table scrolls sideways; a keyboard must be able to reach it.
            <div className="scroll" tabIndex={0} role="region" aria-label="Rows of the query">
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
  /** True when it cannot run for want of a parameter. */
  isMissing: boolean
  take(parameters: Record<string, string>): void
  /** As what nobody has typed yet. */
  suggest(parameters: Record<string, string>): void
}

/** What the query was given at an address that really asks it: the address is walked. */
function FromAddress({ name, uses, isMissing, take, suggest }: FromAddressProps) {
  const { message } = App.useApp()
  const client = useQueryClient()
  const examples = uses.filter((one) => one.example !== null)
  const walk = async (path: string, data: string, isUnasked = false) => {
    try {
      const record = await client.fetchQuery({
        queryKey: ['walked', path],
        queryFn: () => call('GET /api/walk', { query: { path } }),
        staleTime: 0,
      })
      const run = record.queries.runs.find((one) => one.data === data && one.query === name)
      if (!run || run.outcome === 'not-run') {
        if (!isUnasked) void message.info(`${path} did not ask it: its kept parts were at hand`)
      } else (isUnasked ? suggest : take)(parameterTexts(run.parameters))
    } catch (error) {
      if (!isUnasked) void message.error(whyRefused(error), 8)
    }
  }
  // A query that is opened shows rows at once: what an address gives it, until somebody says otherwise.
  const [example] = examples
  const isAsked = useRef(false)
  const walkFirst = useEffectEvent(() => {
    if (isAsked.current || !isMissing || !example?.example) return
    isAsked.current = true
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
      <Button size="small">From an address</Button>
    </Dropdown>
  )
}
