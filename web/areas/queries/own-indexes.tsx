/** The blog's own indexes: their document, their states, and the growth of all queries. */
import { Button } from 'antd'
import { DocumentEditor } from '../../shared/editor/document-editor.tsx'
import { Chip, type Tone } from '../../shared/marks/marks.tsx'
import type { OwnIndexItem } from '../../../contract/growth.ts'
import { useRead } from '../../api/queries.ts'
import { useNotices } from '../../shared/changes/notices.tsx'
import { formatBytes, formatMilliseconds } from '../../shared/words/format.ts'
import { Progressing } from './query-growth.tsx'
import { useGrowth } from './use-growth.ts'
import { words } from './words.ts'

const text = words.ownIndexes

const FILE = 'indexes.yaml'
/** How often states are read while an index is being built, in milliseconds. */
const INTERVAL = 1_000

const TONES: Readonly<Record<OwnIndexItem['state'], Tone>> = {
  waiting: 'plain',
  building: 'blue',
  ready: 'fine',
  failed: 'fail',
}

interface Props {
  line: number | undefined
  queries: readonly string[]
  open(query: string): void
}

export function OwnIndexesPane({ line, queries, open }: Props) {
  const documents = useRead('GET /api/documents', {})
  const indexes = useRead(
    'GET /api/indexes',
    {},
    {
      staleTime: 0,
      refetchInterval: ({ state }) =>
        state.data?.some((one) => one.state === 'waiting' || one.state === 'building') ? INTERVAL : false,
    },
  )
  const exists = documents.data?.some((one) => one.path === FILE) ?? false
  return (
    <section className="pane wide" aria-label={words.indexes}>
      <header>
        <h1>{words.indexes}</h1>
        <span className="muted">{text.note}</span>
      </header>
      <div className="scroll">
        {exists ? (
          <DocumentEditor path={FILE} line={line} height="220px" />
        ) : (
          <p className="quiet small">{text.empty}</p>
        )}
        {indexes.data && indexes.data.length > 0 ? (
          <table className="figures">
            <thead>
              <tr>
                <th scope="col">{text.index}</th>
                <th scope="col">{text.on}</th>
                <th scope="col">{text.state}</th>
                <th scope="col">{text.size}</th>
              </tr>
            </thead>
            <tbody>
              {indexes.data.map((one) => (
                <tr key={one.name}>
                  <th scope="row">{one.name}</th>
                  <td>
                    <code>
                      {one.on} ({one.keys.join(', ')})
                    </code>
                  </td>
                  <td>
                    <Chip tone={TONES[one.state]}>{text.states[one.state]}</Chip> {one.problem}
                  </td>
                  <td>{one.bytes === null ? '–' : formatBytes(one.bytes)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        ) : null}
        <AllQueries queries={queries} open={open} />
      </div>
    </section>
  )
}

/** All queries, measured with the same posts. */
function AllQueries({ queries, open }: Pick<Props, 'queries' | 'open'>) {
  const notices = useNotices()
  const { report, start, cancel } = useGrowth()
  const { running = null, results = [] } = report.data ?? {}
  const latest = queries.flatMap(
    (name) => results.find((one) => one.isCurrent && one.result.query === name) ?? [],
  )
  return (
    <section aria-label={text.all} className="growth">
      <div className="tools-line">
        <b>{text.all}</b>
        <span className="muted">{text.measured(latest.length, queries.length)}</span>
        <span className="grow" />
        {running ? (
          <Button size="small" onClick={() => cancel.mutate(undefined, { onError: notices.failed })}>
            {words.growth.cancel}
          </Button>
        ) : (
          <Button
            size="small"
            disabled={queries.length === 0}
            onClick={() =>
              start.mutate(
                { queries: [...queries], sizes: [1_000, 10_000, 100_000] },
                { onError: notices.failed },
              )
            }
          >
            {text.measureAll}
          </Button>
        )}
      </div>
      <div role="status" aria-live="polite">
        {running ? <Progressing running={running} isOwn={false} /> : null}
      </div>
      {latest.length > 0 ? (
        <table className="figures">
          <thead>
            <tr>
              <th scope="col">{text.query}</th>
              <th scope="col">{text.firstPage}</th>
              <th scope="col">{text.faster}</th>
            </tr>
          </thead>
          <tbody>
            {latest.map(({ id, result }) => {
              const size = Math.max(...result.sizes)
              const first = result.measured.find(
                (one) => one.size === size && one.page === 'first' && one.index === null,
              )
              const advised = result.tried.find((one) => one.name === result.advised?.name)
              return (
                <tr key={id}>
                  <th scope="row">
                    <button type="button" className="link" onClick={() => open(result.query)}>
                      {result.query}
                    </button>
                  </th>
                  <td>{first ? text.at(formatMilliseconds(first.milliseconds), size) : '–'}</td>
                  <td>
                    {advised && result.advised ? (
                      <>
                        <Chip tone="look">{advised.keys.join(', ')}</Chip>{' '}
                        {formatMilliseconds(result.advised.after)}
                      </>
                    ) : (
                      text.none
                    )}
                  </td>
                </tr>
              )
            })}
          </tbody>
        </table>
      ) : null}
    </section>
  )
}
