/** The indexes that the definition asks for: their text, and whether the tables have them. */
import { useQuery } from '@tanstack/react-query'
import { DocumentEditor } from '../../shared/document-editor.tsx'
import { Chip, type Tone } from '../../shared/marks.tsx'
import { call } from '../../api/client.ts'
import { formatBytes } from '../../shared/words.ts'

const FILE = 'indexes.yaml'
const WHILE_MAKING_MILLISECONDS = 1_000

const STATES: Readonly<Record<string, { tone: Tone; words: string }>> = {
  waiting: { tone: 'plain', words: 'waits' },
  'being-made': { tone: 'blue', words: 'being made' },
  ready: { tone: 'fine', words: 'ready' },
  failed: { tone: 'fail', words: 'failed' },
}

export function OwnIndexesPane({ line }: { line: number | undefined }) {
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
      </div>
    </section>
  )
}
