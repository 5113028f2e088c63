/** The fragments kept now: key, age, what each depends on. */
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { App, Button, Table } from 'antd'
import type { CopyItem } from '../../../contract/operations.ts'
import { call } from '../../api/client.ts'
import { formatBytes, formatSpan, plural } from '../../shared/words/words.ts'
import './cache.css'

const EVERY_MILLISECONDS = 2_000

export function CacheScreen() {
  const client = useQueryClient()
  const { message } = App.useApp()
  const copies = useQuery({
    queryKey: ['copies'],
    queryFn: () => call('GET /api/copies', {}),
    refetchInterval: EVERY_MILLISECONDS,
  })
  const forget = async () => {
    const { dropped } = await call('DELETE /api/copies', {})
    await client.invalidateQueries({ queryKey: ['copies'] })
    void message.success(`${plural(dropped, 'copy', 'copies')} forgotten; the next requests make them anew`)
  }
  const list = copies.data?.copies ?? []
  return (
    <main className="cache">
      <section className="pane" aria-label="Kept fragments">
        <header>
          <h1>Kept now</h1>
          <span className="muted">
            {plural(list.length, 'copy', 'copies')}, {formatBytes(copies.data?.bytes ?? 0)} in this process
          </span>
          <span className="grow" />
          <Button size="small" disabled={list.length === 0} onClick={() => void forget()}>
            Forget all
          </Button>
        </header>
        <div className="scroll">
          <Table<CopyItem>
            size="small"
            rowKey="key"
            dataSource={list}
            loading={copies.isPending}
            pagination={{ pageSize: 50, hideOnSinglePage: true }}
            locale={{
              emptyText: 'Nothing is kept. A fragment is kept when a page that has one is asked for.',
            }}
            columns={[
              { title: 'Fragment', dataIndex: 'name', sorter: (a, b) => a.name.localeCompare(b.name) },
              { title: 'Key', dataIndex: 'key', render: (key: string) => <code>{key}</code> },
              {
                title: 'Depends on',
                dataIndex: 'tags',
                render: (tags: string[]) => (
                  <span className="tags-cell">{tags.join(', ') || 'nothing that changes'}</span>
                ),
              },
              {
                title: 'Age',
                dataIndex: 'ageMilliseconds',
                align: 'right',
                render: formatSpan,
                sorter: (a, b) => a.ageMilliseconds - b.ageMilliseconds,
              },
              {
                title: 'Left',
                dataIndex: 'remainingMilliseconds',
                align: 'right',
                render: formatSpan,
                sorter: (a, b) => a.remainingMilliseconds - b.remainingMilliseconds,
              },
              { title: 'Size', dataIndex: 'bytes', align: 'right', render: formatBytes },
            ]}
          />
        </div>
      </section>
    </main>
  )
}
