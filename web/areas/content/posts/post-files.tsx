/** The files of posts: exports, and the import of Markdown files with a report for each. */
import { Button, Modal, Progress, Upload } from 'antd'
import { useRef, useState } from 'react'
import type { AnswerOf } from '../../../../contract/operations.ts'
import { useWrite } from '../../../api/queries.ts'
import { useNotices } from '../../../shared/changes/notices.tsx'
import { Chip, type Tone } from '../../../shared/marks/marks.tsx'
import { words as shared } from '../../../shared/words/words.ts'
import { FilesMenu } from '../parts/files-menu.tsx'
import { words } from '../words.ts'

const text = words.import

type Answer = AnswerOf<'POST /api/posts/import'>
type Result = Answer['results'][number]
type Missing = Answer['missing'][number]

export function PostFiles() {
  const [isOpen, setOpen] = useState(false)
  const items = [
    { key: 'import', label: words.files.import, onClick: () => setOpen(true) },
    {
      key: 'zip',
      label: (
        <a href="/api/posts/export.zip" download>
          {words.files.zip}
        </a>
      ),
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
  const [results, setResults] = useState<ReadonlyMap<string, Result>>(new Map())
  const [missing, setMissing] = useState<readonly Missing[]>([])
  const [state, setState] = useState<'choosing' | 'running' | 'done'>('choosing')
  const isStopped = useRef(false)
  const start = async (chosen: readonly File[], createMissing: boolean) => {
    setState('running')
    setMissing([])
    isStopped.current = false
    let batch: { name: string; text: string }[] = []
    const add = (found: readonly Result[]) =>
      setResults((known) => new Map([...known, ...found.map((one) => [one.file, one] as const)]))
    const send = async () => {
      if (batch.length === 0) return
      const answer = await write('POST /api/posts/import', { body: { files: batch, createMissing } })
      add(answer.results)
      setMissing((known) => merged(known, answer.missing))
      batch = []
    }
    try {
      for (const file of chosen) {
        if (isStopped.current) break
        const content = await file.text()
        const length = batch.reduce((sum, one) => sum + one.text.length, content.length)
        if (batch.length >= BATCH.files || length > BATCH.characters) await send()
        if (content.length > FILE_LIMIT) add([tooLong(file.name)])
        else batch.push({ name: file.name, text: content })
      }
      if (!isStopped.current) await send()
    } catch (error) {
      notices.failed(error)
    }
    setState('done')
  }
  const refused = files.filter((one) => results.get(one.name)?.outcome === 'refused')
  const all = [...results.values()]
  const count = (outcome: Result['outcome']) => all.filter((one) => one.outcome === outcome).length
  return (
    <Modal
      open
      rootClassName="content-popup"
      onCancel={() => {
        isStopped.current = true
        close()
      }}
      width={680}
      title={text.title}
      footer={
        state === 'running' ? (
          <Button onClick={() => (isStopped.current = true)}>{text.stop}</Button>
        ) : (
          <>
            <Button onClick={close}>{state === 'done' ? shared.close : shared.cancel}</Button>
            {state === 'choosing' ? (
              <Button type="primary" disabled={files.length === 0} onClick={() => void start(files, false)}>
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
            percent={files.length === 0 ? 100 : Math.round((100 * results.size) / files.length)}
            status={state === 'running' ? 'active' : 'normal'}
          />
          <p role="status">
            {text.result(results.size, files.length, [
              count('created'),
              count('changed'),
              count('unchanged'),
              count('refused'),
            ])}
          </p>
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
              <Button type="primary" size="small" onClick={() => void start(refused, true)}>
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
                  <Chip tone={TONES[one.outcome]}>{one.outcome}</Chip>
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

/** Adds the files that refer to what does not exist. */
function merged(known: readonly Missing[], found: readonly Missing[]): Missing[] {
  const all = new Map(known.map((one) => [`${one.kind} ${one.name}`, one]))
  for (const one of found) {
    const key = `${one.kind} ${one.name}`
    const before = all.get(key)
    all.set(key, before ? { ...before, files: [...before.files, ...one.files] } : one)
  }
  return [...all.values()]
}

const tooLong = (file: string): Result => ({
  file,
  outcome: 'refused',
  slug: null,
  problems: [{ file, code: 'document-too-long', message: text.tooLong }],
})
