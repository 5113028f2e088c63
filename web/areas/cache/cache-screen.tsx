/** The Cache area: the stored copies of pages and fragments with their keys, ages and dependencies. */
import { Button, Table } from 'antd'
import type { CopyItem } from '../../../contract/cache.ts'
import { useRead, useWrite } from '../../api/queries.ts'
import { useNotices } from '../../shared/changes/notices.tsx'
import { Chip } from '../../shared/marks/marks.tsx'
import { formatBytes, formatSpan } from '../../shared/words/format.ts'
import { words } from './words.ts'
import './cache.css'

/** How often the list is read, in milliseconds. */
const INTERVAL = 2_000
const KINDS = ['page', 'fragment'] as const

export function CacheScreen() {
  const write = useWrite()
  const notices = useNotices()
  const stored = useRead('GET /api/copies', {}, { refetchInterval: INTERVAL })
  const clear = () =>
    write('DELETE /api/copies', {}).then(
      ({ dropped }) => notices.done(words.cleared(dropped)),
      notices.failed,
    )
  const list = stored.data?.copies ?? []
  const pages = list.filter((one) => one.kind === 'page').length
  const { columns } = words
  return (
    <main className="cache">
      <section className="pane" aria-label={words.title}>
        <header>
          <h1>{words.title}</h1>
          <span className="muted">
            {words.count(pages, list.length - pages, formatBytes(stored.data?.bytes ?? 0))}
          </span>
          <span className="grow" />
          <Button size="small" disabled={list.length === 0} onClick={() => void clear()}>
            {words.clear}
          </Button>
        </header>
        <div className="scroll">
          <Table<CopyItem>
            size="small"
            rowKey="key"
            dataSource={list}
            loading={stored.isPending}
            pagination={{ pageSize: 50, hideOnSinglePage: true }}
            locale={{ emptyText: words.empty }}
            columns={[
              {
                title: columns.kind,
                dataIndex: 'kind',
                render: (kind: CopyItem['kind']) => <Chip>{words.kinds[kind]}</Chip>,
                filters: KINDS.map((kind) => ({ text: words.kinds[kind], value: kind })),
                onFilter: (kind, one) => one.kind === kind,
              },
              { title: columns.name, dataIndex: 'name', sorter: (a, b) => a.name.localeCompare(b.name) },
              { title: columns.key, dataIndex: 'key', render: (key: string) => <code>{key}</code> },
              {
                title: columns.dependsOn,
                dataIndex: 'dependsOn',
                render: (dependsOn: string[]) => (
                  <span className="tags">{dependsOn.join(', ') || words.noDependencies}</span>
                ),
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
              { title: columns.size, dataIndex: 'bytes', align: 'right', render: formatBytes },
            ]}
          />
        </div>
      </section>
    </main>
  )
}
