/** The stored copies, with what each depends on, and its text. */
import { Button, Table } from 'antd'
import { Link } from 'react-router'
import type { CopyItem } from '../../../contract/cache.ts'
import { useRead, useWrite } from '../../api/queries.ts'
import { useNotices } from '../../shared/changes/notices.tsx'
import { Chip } from '../../shared/marks/marks.tsx'
import { formatBytes, formatSpan } from '../../shared/words/format.ts'
import { words } from './words.ts'

const text = words.copies
const KINDS = ['page', 'fragment'] as const

export function CopiesTable({ copies, isPending }: { copies: readonly CopyItem[]; isPending: boolean }) {
  const { columns } = text
  return (
    <div className="scroll">
      <Table<CopyItem>
        size="small"
        rowKey={(one) => one.key}
        dataSource={[...copies]}
        loading={isPending}
        pagination={{ pageSize: 50, hideOnSinglePage: true }}
        locale={{ emptyText: isPending ? ' ' : text.empty }}
        expandable={{
          columnTitle: <span aria-label={columns.details} role="img" />,
          expandedRowRender: (one) => <Details copy={one} />,
        }}
        columns={[
          {
            title: columns.kind,
            dataIndex: 'kind',
            render: (kind: CopyItem['kind']) => <Chip>{words.kinds[kind]}</Chip>,
            filters: KINDS.map((kind) => ({ text: words.kinds[kind], value: kind })),
            onFilter: (kind, one) => one.kind === kind,
          },
          { title: columns.name, dataIndex: 'name', sorter: (a, b) => a.name.localeCompare(b.name) },
          { title: columns.what, key: 'for', render: (_, one) => <code>{whatFor(one)}</code> },
          {
            title: columns.uses,
            dataIndex: 'uses',
            align: 'right',
            render: (uses: number, one) => (one.kind === 'page' ? uses.toLocaleString('en-GB') : ''),
            sorter: (a, b) => a.uses - b.uses,
          },
          {
            title: columns.age,
            dataIndex: 'ageMilliseconds',
            align: 'right',
            render: formatSpan,
            sorter: (a, b) => a.ageMilliseconds - b.ageMilliseconds,
          },
          {
            title: columns.remaining,
            dataIndex: 'remainingMilliseconds',
            align: 'right',
            render: formatSpan,
            sorter: (a, b) => a.remainingMilliseconds - b.remainingMilliseconds,
          },
          {
            title: columns.size,
            dataIndex: 'bytes',
            align: 'right',
            render: formatBytes,
            sorter: (a, b) => a.bytes - b.bytes,
          },
        ]}
      />
    </div>
  )
}

/** The part of a key that says what a copy is for: not its name, and not the states of the definition. */
function whatFor({ address, key, name }: CopyItem): string {
  if (address !== null) return address
  return key
    .replace(/^json \S+ /, '')
    .replace(new RegExp(`^${name}@\\S+ ?`), '')
    .replace(/[#/@][0-9a-f]{10,}/g, '')
    .slice(0, 160)
}

function Details({ copy }: { copy: CopyItem }) {
  const write = useWrite()
  const notices = useNotices()
  const read = useRead('GET /api/copy', { query: { key: copy.key } })
  const drop = () =>
    write('DELETE /api/copy', { query: { key: copy.key } }).then(
      ({ dropped }) => notices.done(text.dropped(dropped)),
      notices.failed,
    )
  return (
    <div className="copy-details">
      <dl>
        <dt>{text.columns.dependsOn}</dt>
        <dd>
          {copy.dependsOn.join(', ') || text.noDependencies}
          {copy.refreshedByAge.length > 0 ? (
            <Chip tone="look">{text.byAge(copy.refreshedByAge.join(', '))}</Chip>
          ) : null}
        </dd>
        <dt>{text.key}</dt>
        <dd>
          <code>{copy.key}</code>
        </dd>
      </dl>
      <p>
        <Button size="small" onClick={() => void drop()}>
          {text.drop}
        </Button>{' '}
        {copy.address === null ? null : <Link to={`/walk${copy.address}`}>{text.walk}</Link>}
      </p>
      <pre tabIndex={0}>{read.data ? (read.data.text ?? text.gone) : ''}</pre>
    </div>
  )
}
