/** The menu of the Comments area: rules, mail, and comments as files. */
import { Button, Dropdown } from 'antd'
import { useRef } from 'react'
import { useWrite } from '../../api/queries.ts'
import { useNotices } from '../../shared/changes/notices.tsx'
import { useDownload } from '../../shared/changes/use-download.ts'
import { words } from './words.ts'

const text = words.menu

export function CommentMenu({ change }: { change(changes: Readonly<Record<string, string | null>>): void }) {
  const save = useDownload()
  const write = useWrite()
  const notices = useNotices()
  const chooser = useRef<HTMLInputElement>(null)
  const importFile = async (file: File) => {
    try {
      const { imported, unchanged, step, purged } = await write('POST /api/comments/import', {
        body: { format: /\.csv$/i.test(file.name) ? 'csv' : 'json', text: await file.text() },
      })
      notices.done(
        text.imported(imported, unchanged),
        step === null ? undefined : () => write('POST /api/step/undo', { body: { id: step } }),
        { purged },
      )
    } catch (error) {
      notices.failed(error)
    }
  }
  const show = (state: 'rules' | 'mail') => () => change({ state, comment: null, search: null })
  return (
    <>
      <Dropdown
        trigger={['click']}
        // Inside the landmark, so that screen readers find it there.
        getPopupContainer={(button) => button.closest('main') ?? document.body}
        menu={{
          items: [
            { key: 'rules', label: words.rules, onClick: show('rules') },
            { key: 'mail', label: words.mail, onClick: show('mail') },
            { type: 'divider' },
            { key: 'import', label: text.import, onClick: () => chooser.current?.click() },
            { key: 'json', label: text.json, onClick: () => save('/api/comments/export.json') },
            { key: 'csv', label: text.csv, onClick: () => save('/api/comments/export.csv') },
          ],
        }}
      >
        <Button size="small">{text.open}</Button>
      </Dropdown>
      <input
        ref={chooser}
        type="file"
        accept=".json,.csv,application/json,text/csv"
        aria-label={text.file}
        hidden
        onChange={(event) => {
          const [file] = event.target.files ?? []
          // The same file can be chosen again once it was corrected.
          event.target.value = ''
          if (file) void importFile(file)
        }}
      />
    </>
  )
}
