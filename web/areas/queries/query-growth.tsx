/** As the blog grows: a query measured over invented posts, what index would serve, and what that costs. */
import { App, Button, Progress, Segmented, Select } from 'antd'
import { lazy, Suspense, useState } from 'react'
import type { GrowthReport } from '../../../contract/growth.ts'
import { Chip } from '../../shared/marks/marks.tsx'
import { whyRefused } from '../../shared/words/why-refused.ts'
import { asSentence, formatBytes, formatMilliseconds, formatSpan } from '../../shared/words/words.ts'
import { linesOf, timeOf } from './growth-lines.ts'
import { useGrowth } from './use-growth.ts'

const GrowthChart = lazy(async () => ({ default: (await import('./growth-chart.tsx')).GrowthChart }))

const SIZES = {
  'to-100k': [1_000, 10_000, 100_000],
  'to-1m': [1_000, 10_000, 100_000, 1_000_000],
} as const

interface Props {
  name: string
  /** What is typed is not what would be measured. */
  isSaved: boolean
}

export function QueryGrowth({ name, isSaved }: Props) {
  const { message } = App.useApp()
  const { report, start, stop, accept } = useGrowth(name)
  const [sizes, setSizes] = useState<keyof typeof SIZES>('to-100k')
  const refused = (error: unknown) => void message.error(whyRefused(error), 8)
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
          aria-label="Up to how many posts"
          options={[
            { value: 'to-100k', label: '1 k – 100 k posts' },
            { value: 'to-1m', label: '1 k – 1 M' },
          ]}
          value={sizes}
          onChange={setSizes}
        />
        <span className="grow" />
        {running ? (
          <Button
            size="small"
            loading={stop.isPending}
            onClick={() => stop.mutate(undefined, { onError: refused })}
          >
            Stop
          </Button>
        ) : (
          <Button
            size="small"
            type="primary"
            loading={start.isPending}
            onClick={() => {
              choose(null)
              start.mutate({ queries: [name], sizes: [...SIZES[sizes]] }, { onError: refused })
            }}
          >
            Measure
          </Button>
        )}
      </div>
      <div role="status" aria-live="polite">
        {running ? (
          <Doing running={running} isOwn={isOwn} />
        ) : failed ? (
          <p className={failed.isCancelled ? 'quiet small' : 'quiet small failed'}>
            {asSentence(failed.message)}
          </p>
        ) : null}
        {isSaved ? null : (
          <p className="quiet small">The query is measured as it is saved, not as it is typed.</p>
        )}
      </div>
      {results.length > 1 ? (
        <p className="outcome">
          <label htmlFor="measurement" className="muted">
            measured
          </label>{' '}
          <Select
            id="measurement"
            size="small"
            variant="borderless"
            popupMatchSelectWidth={false}
            value={shown?.id ?? null}
            options={results.map(({ id, at, isCurrent }, index) => ({
              value: id,
              label: `${timeText(at)}${index === 0 ? ', the newest' : ''}${isCurrent ? '' : ', before its last change'}`,
            }))}
            onChange={choose}
          />
        </p>
      ) : null}
      {shown ? (
        <Result
          key={shown.id}
          kept={shown}
          accept={(change) =>
            accept.mutate(change, {
              onError: refused,
              onSuccess: () => void message.success('The index is part of the definition, and is being made'),
            })
          }
          isAccepting={accept.isPending}
        />
      ) : report.data && !running ? (
        <p className="quiet small">
          Not measured yet. A database of its own is filled with invented posts, the query is run at its
          first, middle and last page, by number and by cursor, with and without the indexes that could serve
          it; then it is dropped. To 100,000 posts that takes about half a minute, to a million some minutes.
          The blog’s own tables are not touched.
        </p>
      ) : null}
      {report.error ? <p className="quiet small failed">{report.error.message}</p> : null}
    </div>
  )
}

const timeText = (at: string): string =>
  new Date(at).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })

/** How far a measurement is, and what it does now. */
export function Doing({ running, isOwn }: { running: NonNullable<GrowthReport['running']>; isOwn: boolean }) {
  const others = running.queries.length > 3 ? `${running.queries.length} queries` : running.queries.join(', ')
  return (
    <p className="doing">
      <Progress percent={Math.floor(running.share * 100)} size="small" aria-label="How far it is" />
      <span className="muted">
        {isOwn ? '' : `${others}: `}
        {running.doing}
      </span>
    </p>
  )
}

type Kept = GrowthReport['results'][number]

interface ResultProps {
  kept: Kept
  accept(change: { text: string; version: number }): void
  isAccepting: boolean
}

function Result({ kept: { at, isCurrent, result, acceptance }, accept, isAccepting }: ResultProps) {
  const lines = linesOf(result)
  const given = Object.entries(result.parameters)
  return (
    <>
      {isCurrent ? null : (
        <p className="outcome">
          <Chip tone="look">measured before its last change</Chip>
        </p>
      )}
      <Advice result={result} acceptance={acceptance} accept={accept} isAccepting={isAccepting} />
      <Suspense fallback={<p className="quiet small">Drawing …</p>}>
        <GrowthChart result={result} />
      </Suspense>
      <table className="figures">
        <caption className="muted">medians; posts in all, and those that the query keeps</caption>
        <thead>
          <tr>
            <th scope="col">posts</th>
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
        {timeText(at)}, on {result.machine}, in {formatSpan(result.milliseconds)}
        {given.length > 0 ? `; ${given.map(([key, value]) => `:${key} ${String(value)}`).join(', ')}` : ''}
        {result.notes.map((note) => `; ${note}`).join('')}.
      </p>
    </>
  )
}

function Advice({
  result,
  acceptance,
  accept,
  isAccepting,
}: Omit<ResultProps, 'kept'> & Pick<Kept, 'result' | 'acceptance'>) {
  const { advised, tried, serving, readsAll } = result
  const index = advised && tried.find((one) => one.name === advised.name)
  if (advised && index)
    return (
      <div className="advice">
        <p>
          <b>An index would serve this:</b>{' '}
          <code>
            {index.on} ({index.keys.join(', ')})
          </code>
        </p>
        <p>
          Tried on {advised.size.toLocaleString('en-GB')} posts: first page{' '}
          {formatMilliseconds(advised.before)} → {formatMilliseconds(advised.after)}. It takes{' '}
          {formatBytes(index.bytes)} there.{' '}
          {acceptance ? (
            <Button size="small" type="link" loading={isAccepting} onClick={() => accept(acceptance)}>
              Add it to indexes.yaml
            </Button>
          ) : (
            <Chip tone="fine">in indexes.yaml</Chip>
          )}
        </p>
      </div>
    )
  const served = serving.length > 0 ? `PostgreSQL uses ${serving.join(' and ')}` : 'PostgreSQL uses no index'
  const read = readsAll.length > 0 ? `, and reads all of ${readsAll.join(' and ')}` : ''
  const others =
    tried.length === 0
      ? 'There is no other index that could serve its conditions and order.'
      : `Tried without gain: ${tried.map((one) => `${one.on} (${one.keys.join(', ')})`).join('; ')}.`
  return (
    <div className="advice plain">
      <p>
        {served}
        {read}. {others}
      </p>
    </div>
  )
}
