/** Posts in and out as files: an archive of Markdown, a table, and files brought in with a report of each. */
import { useQueryClient } from '@tanstack/react-query'
import { App, Button, Modal, Progress, Upload } from 'antd'
import { useRef, useState } from 'react'
import type { AnswerOf } from '../../../../contract/operations.ts'
import { call } from '../../../api/client.ts'
import { whyRefused } from '../../../shared/words/why-refused.ts'
import { Chip, type Tone } from '../../../shared/marks/marks.tsx'
import { plural } from '../../../shared/words/words.ts'
import { FilesMenu } from '../parts/files-menu.tsx'
import { refreshContent } from '../parts/refresh.ts'

type Result = AnswerOf<'POST /api/posts/import'>['results'][number]

export function PostFiles() {
  const [isOpen, setOpen] = useState(false)
  const items = [
    { key: 'import', label: 'Bring in Markdown files …', onClick: () => setOpen(true) },
    {
      key: 'zip',
      label: (
        <a href="/api/posts/export.zip" download>
          All posts as Markdown files
        </a>
      ),
    },
  ]
  return (
    <>
      <FilesMenu kind="post" many="posts" items={items} />
      {isOpen ? <BringIn close={() => setOpen(false)} /> : null}
    </>
  )
}

/** Files sent together: small enough to show progress and to stop between. */
const TOGETHER = 20
const TOGETHER_CHARACTERS = 1_500_000

const TONES: Record<Result['outcome'], Tone> = {
  made: 'fine',
  changed: 'blue',
  same: 'plain',
  refused: 'fail',
}

function BringIn({ close }: { close(): void }) {
  const client = useQueryClient()
  const { message } = App.useApp()
  const [files, setFiles] = useState<File[]>([])
  const [results, setResults] = useState<Result[]>([])
  const [state, setState] = useState<'choosing' | 'going' | 'done'>('choosing')
  const stopped = useRef(false)
  const start = async () => {
    setState('going')
    stopped.current = false
    let batch: { name: string; text: string }[] = []
    const send = async () => {
      if (batch.length === 0) return
      const { results: found } = await call('POST /api/posts/import', { body: { files: batch } })
      setResults((known) => [...known, ...found])
      batch = []
    }
    try {
      for (const file of files) {
        if (stopped.current) break
        const text = await file.text()
        const length = batch.reduce((sum, one) => sum + one.text.length, text.length)
        if (batch.length >= TOGETHER || length > TOGETHER_CHARACTERS) await send()
        if (text.length > 1_000_000) setResults((known) => [...known, tooLong(file.name)])
        else batch.push({ name: file.name, text })
      }
      if (!stopped.current) await send()
    } catch (error) {
      void message.error(whyRefused(error), 8)
    }
    await refreshContent(client)
    setState('done')
  }
  const count = (outcome: Result['outcome']) => results.filter((one) => one.outcome === outcome).length
  return (
    <Modal
      open
      onCancel={() => {
        stopped.current = true
        close()
      }}
      width={680}
      title="Bring in Markdown files"
      footer={
        state === 'going' ? (
          <Button onClick={() => (stopped.current = true)}>Stop</Button>
        ) : (
          <>
            <Button onClick={close}>{state === 'done' ? 'Close' : 'Leave it'}</Button>
            {state === 'choosing' ? (
              <Button type="primary" disabled={files.length === 0} onClick={() => void start()}>
                Bring in {files.length === 0 ? '' : plural(files.length, 'file')}
              </Button>
            ) : null}
          </>
        )
      }
    >
      {state === 'choosing' ? (
        <Upload.Dragger
          multiple
          accept=".md,.markdown"
          showUploadList={false}
          beforeUpload={(_, list) => {
            setFiles((known) => [...known, ...list.filter((one) => !known.includes(one))])
            return false
          }}
        >
          <p>
            {files.length === 0
              ? 'Drop files here, or choose them'
              : `${plural(files.length, 'file')}: ${files
                  .slice(0, 4)
                  .map((one) => one.name)
                  .join(', ')}${files.length > 4 ? ` and ${files.length - 4} more` : ''}`}
          </p>
          <p className="muted">
            Each begins with front matter: “---”, a title, perhaps published, category, author, tags, and
            “---” again. A file whose slug a post has already changes that post.
          </p>
        </Upload.Dragger>
      ) : (
        <>
          <Progress
            percent={files.length === 0 ? 100 : Math.round((100 * results.length) / files.length)}
            status={state === 'going' ? 'active' : 'normal'}
          />
          <p role="status">
            {results.length} of {plural(files.length, 'file')}: {count('made')} made, {count('changed')}{' '}
            changed, {count('same')} as they were, {count('refused')} refused.
          </p>
          <ul className="imported">
            {[...results]
              .sort((a, b) => Number(b.outcome === 'refused') - Number(a.outcome === 'refused'))
              .map((one) => (
                <li key={one.file}>
                  <code>{one.file}</code>
                  <Chip tone={TONES[one.outcome]}>{one.outcome}</Chip>
                  {one.problems.map((problem, index) => (
                    <span key={index} className="failed">
                      {problem.line === undefined ? '' : `line ${problem.line}: `}
                      {problem.message}
                      {problem.hint === undefined ? '' : `; ${problem.hint}`}
                    </span>
                  ))}
                </li>
              ))}
          </ul>
        </>
      )}
    </Modal>
  )
}

const tooLong = (file: string): Result => ({
  file,
  outcome: 'refused',
  slug: null,
  problems: [{ file, message: 'it is longer than a million characters' }],
})
