/** The files of posts: exports, and the import of Markdown files with a report for each. */
import { Button, Modal, Progress, Upload } from 'antd'
import { useRef, useState } from 'react'
import type { AnswerOf } from '../../../../contract/operations.ts'
import { call } from '../../../api/client.ts'
import { useWrite } from '../../../api/queries.ts'
import { useNotices } from '../../../shared/changes/notices.tsx'
import { Chip, type Tone } from '../../../shared/marks/marks.tsx'
import { words as shared } from '../../../shared/words/words.ts'
import { useDownload } from '../../../shared/changes/use-download.ts'
import { FilesMenu } from '../parts/files-menu.tsx'
import { words } from '../words.ts'

const text = words.import

type Answer = AnswerOf<'POST /api/posts/import'>
type Result = Answer['results'][number]

export function PostFiles() {
  const [isOpen, setOpen] = useState(false)
  const save = useDownload()
  const items = [
    { key: 'import', label: words.files.import, onClick: () => setOpen(true) },
    {
      key: 'zip',
      label: words.files.zip,
      onClick: () => save('/api/posts/export.zip'),
    },
  ]
  return (
    <>
      <FilesMenu kind="post" many="posts" items={items} />
      {isOpen ? <Import close={() => setOpen(false)} /> : null}
    </>
  )
}

/** How many files, and how many characters, are sent together: few enough to show progress and to stop. */
const BATCH = { files: 20, characters: 1_500_000 }
const FILE_LIMIT = 1_000_000
/** The part of the progress bar for sending files, in percent; the rest is for importing them. */
const SENDING = 20
/** In milliseconds. */
const PROGRESS_INTERVAL = 400
/** How many names of chosen files are listed. */
const NAMES_SHOWN = 4

const TONES: Record<Result['outcome'], Tone> = {
  created: 'fine',
  changed: 'blue',
  unchanged: 'plain',
  refused: 'fail',
}

function Import({ close }: { close(): void }) {
  const write = useWrite()
  const notices = useNotices()
  const [files, setFiles] = useState<File[]>([])
  const [answer, setAnswer] = useState<Answer>()
  const [sent, setSent] = useState(0)
  const [done, setDone] = useState(0)
  const [state, setState] = useState<'choosing' | 'running' | 'done'>('choosing')
  const isStopped = useRef(false)
  /** The import to which the files belong, from the first request to the last. */
  const id = useRef('')
  /** Sends the files, few at a time, and then imports all of them together. */
  const send = async () => {
    id.current = crypto.randomUUID()
    let batch: { name: string; text: string }[] = []
    const flush = async () => {
      if (batch.length === 0) return
      await call('POST /api/posts/import', { body: { import: id.current, files: batch, more: true } })
      batch = []
    }
    for (const file of files) {
      if (isStopped.current) return false
      const content = await file.text()
      if (content.length > FILE_LIMIT) throw new Error(text.tooLong(file.name))
      const length = batch.reduce((sum, one) => sum + one.text.length, content.length)
      if (batch.length >= BATCH.files || length > BATCH.characters) await flush()
      batch.push({ name: file.name, text: content })
      setSent((known) => known + 1)
    }
    await flush()
    return true
  }
  const run = async (options: { createMissing?: boolean; skipRefused?: boolean }, isSent = true) => {
    setState('running')
    setAnswer(undefined)
    setDone(0)
    isStopped.current = false
    const watch = setInterval(() => {
      call('GET /api/posts/import', { query: { import: id.current } }).then(
        ({ done }) => setDone(done),
        () => undefined,
      )
    }, PROGRESS_INTERVAL)
    try {
      if (isSent || (await send()))
        setAnswer(
          await write('POST /api/posts/import', { body: { import: id.current, files: [], ...options } }),
        )
    } catch (error) {
      notices.failed(error)
    }
    clearInterval(watch)
    setState('done')
  }
  const stop = () => {
    isStopped.current = true
    if (id.current !== '')
      call('DELETE /api/posts/import', { query: { import: id.current } }).catch(notices.failed)
  }
  const leave = () => {
    stop()
    close()
  }
  const all = [...(answer?.results ?? [])]
  const missing = answer?.missing ?? []
  /** Whether a file was not imported only because others were refused. */
  const isLeftOut = ({ outcome }: Result) => answer?.isDone === false && outcome !== 'refused'
  const count = (outcome: Result['outcome']) => all.filter((one) => one.outcome === outcome).length
  return (
    <Modal
      open
      rootClassName="content-popup"
      onCancel={leave}
      width={680}
      title={text.title}
      footer={
        state === 'running' ? (
          <Button onClick={stop}>{text.stop}</Button>
        ) : (
          <>
            <Button onClick={leave}>{state === 'done' ? shared.close : shared.cancel}</Button>
            {state === 'choosing' ? (
              <Button type="primary" disabled={files.length === 0} onClick={() => void run({}, false)}>
                {text.import(files.length)}
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
              ? text.choose
              : text.chosen(
                  files.length,
                  files.slice(0, NAMES_SHOWN).map((one) => one.name),
                  Math.max(0, files.length - NAMES_SHOWN),
                )}
          </p>
          <p className="muted">{text.help}</p>
        </Upload.Dragger>
      ) : (
        <>
          <Progress
            percent={
              state === 'done' ? 100 : Math.round((SENDING * sent + (100 - SENDING) * done) / files.length)
            }
            status={state === 'running' ? 'active' : 'normal'}
          />
          <p role="status">
            {state === 'running'
              ? text.progress(done > 0 ? done : sent, files.length, done > 0)
              : answer === undefined || answer.results.length === 0
                ? text.nothing
                : text.result(answer.isDone, files.length, [
                    count('created'),
                    count('changed'),
                    count('unchanged'),
                    count('refused'),
                  ])}
          </p>
          {state === 'done' && answer && !answer.isDone && count('refused') < all.length && all.length > 0 ? (
            <Button size="small" onClick={() => void run({ skipRefused: true })}>
              {text.others(all.length - count('refused'))}
            </Button>
          ) : null}
          {missing.length > 0 && state === 'done' ? (
            <div className="missing">
              <p>{text.missing}</p>
              <ul>
                {missing.map((one) => (
                  <li key={`${one.kind} ${one.name}`}>
                    {text.missingTerm(one.kind, one.name, one.files.length)}
                  </li>
                ))}
              </ul>
              <Button type="primary" size="small" onClick={() => void run({ createMissing: true })}>
                {text.createAndImport}
              </Button>
            </div>
          ) : null}
          <ul className="imported">
            {all
              .sort((a, b) => Number(b.outcome === 'refused') - Number(a.outcome === 'refused'))
              .map((one) => (
                <li key={one.file}>
                  <code>{one.file}</code>
                  <Chip tone={isLeftOut(one) ? 'plain' : TONES[one.outcome]}>
                    {isLeftOut(one) ? text.notImported : one.outcome}
                  </Chip>
                  {one.problems.map((problem, index) => (
                    <span key={index} className="failed">
                      {problem.line === undefined ? '' : `${text.line(problem.line)} `}
                      {problem.message} {problem.hint}
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
