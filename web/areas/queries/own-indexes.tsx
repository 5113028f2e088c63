/** The indexes that the definition asks for: their text, and whether the tables have them. */
import { useQuery } from '@tanstack/react-query'
import { App, Button } from 'antd'
import { DocumentEditor } from '../../shared/editor/document-editor.tsx'
import { Chip, type Tone } from '../../shared/marks/marks.tsx'
import { call } from '../../api/client.ts'
import { whyRefused } from '../../shared/words/why-refused.ts'
import { formatBytes, formatMilliseconds } from '../../shared/words/words.ts'
import { Doing } from './query-growth.tsx'
import { useGrowth } from './use-growth.ts'

const FILE = 'indexes.yaml'
const WHILE_MAKING_MILLISECONDS = 1_000

const STATES: Readonly<Record<string, { tone: Tone; words: string }>> = {
  waiting: { tone: 'plain', words: 'waits' },
  'being-made': { tone: 'blue', words: 'being made' },
  ready: { tone: 'fine', words: 'ready' },
  failed: { tone: 'fail', words: 'failed' },
}

interface Props {
  line: number | undefined
  queries: readonly string[]
  open(query: string): void
}

export function OwnIndexesPane({ line, queries, open }: Props) {
  const documents = useQuery({ queryKey: ['documents'], queryFn: () => call('GET /api/documents', {}) })
  const indexes = useQuery({
    queryKey: ['indexes'],
    queryFn: () => call('GET /api/indexes', {}),
    staleTime: 0,
    refetchInterval: ({ state }) =>
      state.data?.some((one) => one.state === 'waiting' || one.state === 'being-made')
        ? WHILE_MAKING_MILLISECONDS
        : false,
  })
  const isThere = documents.data?.some((one) => one.path === FILE) ?? false
  return (
    <section className="pane wide" aria-label="Indexes of this blog">
      <header>
        <h1>Indexes of this blog</h1>
        <span className="muted">
          beyond those that every blog has; made and taken away while readers read
        </span>
      </header>
      <div className="scroll">
        {isThere ? (
          <DocumentEditor path={FILE} line={line} height="220px" onSaved={() => void indexes.refetch()} />
        ) : (
          <p className="quiet small">
            There is none yet. Open a query, measure it under “As it grows”, and where an index would serve,
            it can be added from there.
          </p>
        )}
        {indexes.data && indexes.data.length > 0 ? (
          <table className="figures">
            <thead>
              <tr>
                <th scope="col">index</th>
                <th scope="col">on</th>
                <th scope="col">state</th>
                <th scope="col">size</th>
              </tr>
            </thead>
            <tbody>
              {indexes.data.map((one) => {
                const { tone, words } = STATES[one.state] ?? { tone: 'plain', words: one.state }
                return (
                  <tr key={one.name}>
                    <th scope="row">{one.name}</th>
                    <td>
                      <code>
                        {one.on} ({one.keys.join(', ')})
                      </code>
                    </td>
                    <td>
                      <Chip tone={tone}>{words}</Chip> {one.problem}
                    </td>
                    <td>{one.bytes === null ? '–' : formatBytes(one.bytes)}</td>
                  </tr>
                )
              })}
            </tbody>
          </table>
        ) : null}
        <EveryQuery queries={queries} open={open} />
      </div>
    </section>
  )
}

/** All queries measured over the same posts: which of them an index would serve. */
function EveryQuery({ queries, open }: Pick<Props, 'queries' | 'open'>) {
  const { message } = App.useApp()
  const { report, start, stop } = useGrowth()
  const refused = (error: unknown) => void message.error(whyRefused(error), 8)
  const { running = null, results = [] } = report.data ?? {}
  const newest = queries.flatMap(
    (name) => results.find((one) => one.isCurrent && one.result.query === name) ?? [],
  )
  return (
    <section aria-label="Every query as the blog grows" className="growth">
      <div className="tools-line">
        <b>Every query as the blog grows</b>
        <span className="muted">
          {newest.length} of {queries.length} measured as they are now
        </span>
        <span className="grow" />
        {running ? (
          <Button size="small" onClick={() => stop.mutate(undefined, { onError: refused })}>
            Stop
          </Button>
        ) : (
          <Button
            size="small"
            disabled={queries.length === 0}
            onClick={() =>
              start.mutate({ queries: [...queries], sizes: [1_000, 10_000, 100_000] }, { onError: refused })
            }
          >
            Measure all, to 100,000 posts
          </Button>
        )}
      </div>
      <div role="status" aria-live="polite">
        {running ? <Doing running={running} isOwn={false} /> : null}
      </div>
      {newest.length > 0 ? (
        <table className="figures">
          <thead>
            <tr>
              <th scope="col">query</th>
              <th scope="col">first page, at most posts</th>
              <th scope="col">an index would serve</th>
            </tr>
          </thead>
          <tbody>
            {newest.map(({ id, result }) => {
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
                  <td>
                    {first
                      ? `${formatMilliseconds(first.milliseconds)} at ${size.toLocaleString('en-GB')}`
                      : '–'}
                  </td>
                  <td>
                    {advised && result.advised ? (
                      <>
                        <Chip tone="look">{advised.keys.join(', ')}</Chip>{' '}
                        {formatMilliseconds(result.advised.after)}
                      </>
                    ) : (
                      'none does better'
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
