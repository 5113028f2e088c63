/** The browsers that are signed in. Each can be signed out. */
import { Alert, App, Button, Modal, Table } from 'antd'
import type { SignedInBrowser } from '../../../contract/session.ts'
import { useRead, useWrite } from '../../api/queries.ts'
import { errorText } from '../words/error-text.ts'
import { formatDateTime } from '../words/format.ts'
import { words } from '../words/words.ts'

const text = words.sessions

export function SessionList({ close }: { close(): void }) {
  const { data = [], isLoading, error } = useRead('GET /api/sessions', {})
  const write = useWrite()
  const { message } = App.useApp()
  const end = (id: string) =>
    void write('DELETE /api/sessions', { query: { id } }).catch((problem: unknown) =>
      message.error(errorText(problem as Error)),
    )
  return (
    <Modal open title={text.title} footer={null} width={760} onCancel={close}>
      <p>{text.help}</p>
      {error ? <Alert type="error" title={errorText(error)} /> : null}
      <Table<SignedInBrowser>
        size="small"
        rowKey="id"
        loading={isLoading}
        pagination={data.length > 10 ? { pageSize: 10 } : false}
        dataSource={data}
        columns={[
          { title: text.browser, dataIndex: 'browser', ellipsis: true, render: browserName },
          { title: text.since, dataIndex: 'since', width: 170, render: (at: string) => formatDateTime(at) },
          { title: text.seen, dataIndex: 'seen', width: 170, render: (at: string) => formatDateTime(at) },
          {
            title: '',
            width: 100,
            render: (_, { id, browser }) => (
              <Button size="small" aria-label={text.endOf(browserName(browser))} onClick={() => end(id)}>
                {text.end}
              </Button>
            ),
          },
        ]}
      />
    </Modal>
  )
}

/** Returns the last product of `User-Agent`, e.g. `Firefox/140.0`, with the system; the whole text if it has none. */
function browserName(agent: string): string {
  const system = /\(([^;)]+)/.exec(agent)?.[1]
  const product = /(Firefox|Edg|OPR|Chrome|Version)\/[\d.]+/.exec(agent)?.[0]
  return product === undefined ? agent : `${product}${system === undefined ? '' : `, ${system}`}`
}
