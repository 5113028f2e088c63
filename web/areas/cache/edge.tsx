/** The edge cache: its lifetime, its purges and its stored responses. */
import { Button, Select, Table } from 'antd'
import { withEdgeRule } from '../../../core/caching/edit-rules.ts'
import type { EdgeCopyItem, EdgeReport } from '../../../contract/cache.ts'
import { useRead, useWrite } from '../../api/queries.ts'
import { useNotices } from '../../shared/changes/notices.tsx'
import { Chip } from '../../shared/marks/marks.tsx'
import { errorText } from '../../shared/words/error-text.ts'
import { durationText } from '../../shared/words/duration-text.ts'
import { formatBytes, formatClock, formatSpan } from '../../shared/words/format.ts'
import { useRule } from './use-rule.ts'
import { words } from './words.ts'

const text = words.edge
/** The interval of reading its state, in milliseconds. */
const READ = 1_000
const LIFETIMES = ['10s', '1m', '10m', '1h', '1d', '7d']

export function Edge() {
  const read = useRead('GET /api/cache/edge', {}, { refetchInterval: READ })
  if (!read.data) return <p className="quiet small">{read.error ? errorText(read.error) : text.pending}</p>
  const { standIn, purger } = read.data
  return (
    <div className="scroll edge">
      <Settings report={read.data} />
      {purger ? <Purges purger={purger} /> : null}
      {standIn && read.data.lifetimeMilliseconds !== null ? (
        <>
          <p>{text.counts(standIn.hits, standIn.revalidated, standIn.misses + standIn.passed)}</p>
          {standIn.total > standIn.copies.length ? (
            <p className="muted">{text.listed(standIn.copies.length, standIn.total)}</p>
          ) : null}
          <EdgeCopies copies={standIn.copies} />
        </>
      ) : null}
    </div>
  )
}

function Settings({ report: { lifetimeMilliseconds, standIn } }: { report: EdgeReport }) {
  const change = useRule()
  const write = useWrite()
  const notices = useNotices()
  const known = lifetimeMilliseconds === null ? 'off' : durationText(lifetimeMilliseconds)
  const set = (value: string) => {
    const lifetime = value === 'off' ? undefined : value
    void change((document) => withEdgeRule(document, lifetime), text.saved(lifetime))
  }
  const clear = () =>
    write('DELETE /api/cache/edge', {}).then(
      ({ confirmed }) => notices.done(confirmed ? text.cleared : text.notCleared),
      notices.failed,
    )
  const offered = [...new Set(['off', ...LIFETIMES, known])]
  return (
    <div className="edge-settings">
      <label htmlFor="edge-lifetime">{text.keep}</label>
      <Select
        id="edge-lifetime"
        value={known}
        onChange={set}
        options={offered.map((value) => ({ value, label: value === 'off' ? text.off : text.atMost(value) }))}
      />
      {lifetimeMilliseconds === null ? null : (
        <Button size="small" onClick={() => void clear()}>
          {text.clear}
        </Button>
      )}
      {lifetimeMilliseconds !== null && standIn ? (
        <Button size="small" type="link" href={standIn.origin} target="_blank" rel="noreferrer">
          {text.open}
        </Button>
      ) : null}
      <p className="muted">
        {standIn ? text.builtIn : text.other} {lifetimeMilliseconds === null ? text.helpOff : text.help}
      </p>
    </div>
  )
}

function Purges({ purger }: { purger: NonNullable<EdgeReport['purger']> }) {
  const { isCurrent, behindSince, error, calls, lastAt, lastGroups } = purger
  return (
    <dl className="edge-state">
      <dt>{text.state}</dt>
      <dd>
        {isCurrent ? (
          <Chip tone="fine">{text.current}</Chip>
        ) : (
          <>
            <Chip tone="fail">{text.behind(behindSince === null ? '' : formatClock(behindSince))}</Chip>{' '}
            {error}
          </>
        )}
      </dd>
      {lastAt === null ? null : (
        <>
          <dt>{text.last}</dt>
          <dd>
            {text.purge(formatClock(lastAt), calls)}{' '}
            {lastGroups === null ? text.everything : <code>{lastGroups.join(' ')}</code>}
          </dd>
        </>
      )}
    </dl>
  )
}

function EdgeCopies({ copies }: { copies: readonly EdgeCopyItem[] }) {
  const { columns } = text
  return (
    <Table<EdgeCopyItem>
      size="small"
      rowKey={(one) => `${one.address} ${one.type} ${one.encoding}`}
      dataSource={[...copies]}
      pagination={{ pageSize: 50, hideOnSinglePage: true }}
      locale={{ emptyText: text.empty }}
      expandable={{
        columnTitle: <span aria-label={text.columns.groups} role="img" />,
        expandedRowRender: (one) => <code>{one.groups.join(' ') || text.noGroups}</code>,
      }}
      columns={[
        {
          title: columns.address,
          dataIndex: 'address',
          render: (address: string) => <code>{address}</code>,
          sorter: (a, b) => a.address.localeCompare(b.address),
        },
        { title: columns.type, dataIndex: 'type' },
        { title: columns.encoding, dataIndex: 'encoding', render: (one: string) => one || text.plain },
        {
          title: columns.groups,
          dataIndex: 'groups',
          align: 'right',
          render: (groups: readonly string[]) => groups.length,
        },
        {
          title: columns.uses,
          dataIndex: 'uses',
          align: 'right',
          sorter: (a, b) => a.uses - b.uses,
        },
        {
          title: columns.remaining,
          dataIndex: 'remainingMilliseconds',
          align: 'right',
          render: formatSpan,
          sorter: (a, b) => a.remainingMilliseconds - b.remainingMilliseconds,
        },
        { title: columns.size, dataIndex: 'bytes', align: 'right', render: formatBytes },
      ]}
    />
  )
}
