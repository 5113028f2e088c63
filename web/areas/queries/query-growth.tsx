/** Growth: a query measured with generated posts, and the index that makes it faster. */
import { Button, Progress, Segmented, Select } from 'antd'
import { lazy, Suspense, useState } from 'react'
import type { GrowthReport } from '../../../contract/growth.ts'
import { Chip } from '../../shared/marks/marks.tsx'
import { useNotices } from '../../shared/changes/notices.tsx'
import { useChanges } from '../../shared/changes/use-changes.ts'
import { formatBytes, formatDateTime, formatMilliseconds, formatSpan } from '../../shared/words/format.ts'
import { linesOf, timeOf } from './growth-lines.ts'
import { useGrowth } from './use-growth.ts'
import { words } from './words.ts'

const text = words.growth

const GrowthChart = lazy(async () => ({ default: (await import('./growth-chart.tsx')).GrowthChart }))

const SIZES = {
  'to-100k': [1_000, 10_000, 100_000],
  'to-1m': [1_000, 10_000, 100_000, 1_000_000],
} as const

interface Props {
  name: string
  /** Whether the typed query is saved. */
  isSaved: boolean
}

export function QueryGrowth({ name, isSaved }: Props) {
  const notices = useNotices()
  const { apply } = useChanges()
  const { report, start, cancel } = useGrowth(name)
  const [sizes, setSizes] = useState<keyof typeof SIZES>('to-100k')
  const { running = null, failure = null, results = [] } = report.data ?? {}
  const [chosen, choose] = useState<number | null>(null)
  const shown = results.find((one) => one.id === chosen) ?? results[0]
  const isOwn = running?.queries.includes(name) ?? false
  const failed = failure?.queries.includes(name) === true ? failure : null
  return (
    <div className="scroll growth">
      <div className="tools-line">
        <Segmented
          size="small"
          aria-label={text.sizes}
          options={[
            { value: 'to-100k', label: text.to100k },
            { value: 'to-1m', label: text.to1m },
          ]}
          value={sizes}
          onChange={setSizes}
        />
        <span className="grow" />
        {running ? (
          <Button
            size="small"
            loading={cancel.isPending}
            onClick={() => cancel.mutate(undefined, { onError: notices.failed })}
          >
            {text.cancel}
          </Button>
        ) : (
          <Button
            size="small"
            type="primary"
            loading={start.isPending}
            onClick={() => {
              choose(null)
              start.mutate({ queries: [name], sizes: [...SIZES[sizes]] }, { onError: notices.failed })
            }}
          >
            {text.measure}
          </Button>
        )}
      </div>
      <div role="status" aria-live="polite">
        {running ? (
          <Progressing running={running} isOwn={isOwn} />
        ) : failed ? (
          <p className={failed.isCancelled ? 'quiet small' : 'quiet small failed'}>{failed.message}</p>
        ) : null}
        {isSaved ? null : <p className="quiet small">{text.unsaved}</p>}
      </div>
      {results.length > 1 ? (
        <p className="outcome">
          <label htmlFor="measurement" className="muted">
            {text.measured}
          </label>{' '}
          <Select
            id="measurement"
            size="small"
            variant="borderless"
            popupMatchSelectWidth={false}
            value={shown?.id ?? null}
            options={results.map(({ id, at, isCurrent }, index) => ({
              value: id,
              label: `${formatDateTime(at)}${index === 0 ? text.latest : ''}${isCurrent ? '' : text.outdated}`,
            }))}
            onChange={choose}
          />
        </p>
      ) : null}
      {shown ? (
        <Result
          key={shown.id}
          item={shown}
          accept={(index) =>
            apply([{ do: 'save-document', document: 'indexes.yaml', ...index }], text.indexAdded)
          }
        />
      ) : report.data && !running ? (
        <p className="quiet small">{text.help}</p>
      ) : null}
      {report.error ? <p className="quiet small failed">{report.error.message}</p> : null}
    </div>
  )
}

/** The progress of a measurement, and its current step. */
export function Progressing({
  running,
  isOwn,
}: {
  running: NonNullable<GrowthReport['running']>
  isOwn: boolean
}) {
  const others =
    running.queries.length > 3 ? text.queries(running.queries.length) : running.queries.join(', ')
  return (
    <p className="doing">
      <Progress percent={Math.floor(running.share * 100)} size="small" aria-label={text.progress} />
      <span className="muted">
        {isOwn ? '' : `${others}: `}
        {running.doing}
      </span>
    </p>
  )
}

type Item = GrowthReport['results'][number]

interface ResultProps {
  item: Item
  accept(index: { text: string; version: number }): Promise<boolean>
}

function Result({ item: { at, isCurrent, result, acceptance }, accept }: ResultProps) {
  const lines = linesOf(result)
  const given = Object.entries(result.parameters)
  return (
    <>
      {isCurrent ? null : (
        <p className="outcome">
          <Chip tone="look">{text.isOutdated}</Chip>
        </p>
      )}
      <Advice result={result} acceptance={acceptance} accept={accept} />
      <Suspense fallback={<p className="quiet small">{text.drawing}</p>}>
        <GrowthChart result={result} />
      </Suspense>
      <table className="figures">
        <caption className="muted">{text.caption}</caption>
        <thead>
          <tr>
            <th scope="col">{text.posts}</th>
            {result.sizes.map((size, index) => (
              <th key={size} scope="col">
                {size.toLocaleString('en-GB')}
                <br />
                <span className="muted">{result.totals[index]?.toLocaleString('en-GB')}</span>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {lines.map((line) => (
            <tr key={line.name}>
              <th scope="row">{line.name}</th>
              {result.sizes.map((size) => {
                const time = timeOf(result, line, size)
                return <td key={size}>{time === undefined ? '–' : formatMilliseconds(time)}</td>
              })}
            </tr>
          ))}
        </tbody>
      </table>
      <p className="quiet small">
        {text.facts(formatDateTime(at), result.machine, formatSpan(result.milliseconds))}
        {given.length > 0 ? `; ${given.map(([key, value]) => `:${key} ${String(value)}`).join(', ')}` : ''}
        {result.notes.map((note) => `; ${note}`).join('')}
      </p>
    </>
  )
}

function Advice({
  result,
  acceptance,
  accept,
}: Omit<ResultProps, 'item'> & Pick<Item, 'result' | 'acceptance'>) {
  const { advised, tried, serving, readsAll } = result
  const [isAccepting, setAccepting] = useState(false)
  const add = async (change: { text: string; version: number }) => {
    setAccepting(true)
    await accept(change)
    setAccepting(false)
  }
  const index = advised && tried.find((one) => one.name === advised.name)
  if (advised && index)
    return (
      <div className="advice">
        <p>
          <b>{text.indexHelps}</b>{' '}
          <code>
            {index.on} ({index.keys.join(', ')})
          </code>
        </p>
        <p>
          {text.gain(
            advised.size,
            formatMilliseconds(advised.before),
            formatMilliseconds(advised.after),
            formatBytes(index.bytes),
          )}{' '}
          {acceptance ? (
            <Button size="small" type="link" loading={isAccepting} onClick={() => void add(acceptance)}>
              {text.addIndex}
            </Button>
          ) : (
            <Chip tone="fine">{text.indexExists}</Chip>
          )}
        </p>
      </div>
    )
  const others =
    tried.length === 0
      ? text.noOtherIndex
      : text.noGain(tried.map((one) => `${one.on} (${one.keys.join(', ')})`))
  return (
    <div className="advice plain">
      <p>
        {text.serving(serving)}
        {text.scans(readsAll)}. {others}
      </p>
    </div>
  )
}
