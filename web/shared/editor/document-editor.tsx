/** Opens, checks and saves one document: the text, its problems at their lines, and what saving did. */
import { Button } from 'antd'
import { lazy, Suspense, useEffect, useRef, useState, type ReactNode } from 'react'
import type { Complete } from './code-editor.tsx'
import { DocumentDiff } from './diff.tsx'
import { languageOf } from './documents.ts'
import { Copy } from '../marks/marks.tsx'
import { useDocument, type OpenDocument, type Saved } from './use-document.ts'
import { useSaveKey } from './use-unsaved.ts'
import './document-editor.css'

const CodeEditor = lazy(async () => ({ default: (await import('./code-editor.tsx')).CodeEditor }))

interface Props {
  path: string
  /** 1-based; scrolled to and marked. */
  line?: number | undefined
  height: string
  onSaved?: (saved: Saved) => void
  onClose?: () => void
  /** Beside the save button. */
  extra?: ReactNode
  /** Told what is typed, saved or not. */
  onText?: (text: string) => void
  /** Another way to change the text, in place of it. */
  parts?: ((text: string, change: (text: string) => void) => ReactNode) | undefined
  complete?: Complete
}

export function DocumentEditor({
  path,
  line,
  height,
  onSaved,
  onClose,
  extra,
  onText,
  parts,
  complete,
}: Props) {
  const document = useDocument(path, onSaved)
  const { stored, text, isChanged, isBehind, isGone, problems, refused } = document
  const tell = useRef(onText)
  useEffect(() => {
    tell.current = onText
  })
  useEffect(() => {
    if (stored) tell.current?.(text)
  }, [text, stored])

  useSaveKey(() => void document.save())

  if (document.error && !isGone)
    return (
      <div className="editor is-missing">
        <p className="quiet small" role="alert">
          {document.error.message}
          {onClose ? (
            <>
              {' '}
              <Button size="small" onClick={onClose}>
                Close
              </Button>
            </>
          ) : null}
        </p>
      </div>
    )
  const elsewhere = problems.filter((one) => one.file !== path)
  const mine = problems.filter((one) => one.file === path)
  return (
    <div
      className="editor"
      onKeyDown={(event) => {
        if (event.key === 'Escape' && !event.defaultPrevented && onClose && !isChanged) onClose()
      }}
    >
      <div className="editor-head">
        <code>{path}</code>
        {isChanged ? <span className="muted">not saved</span> : null}
        <span className="grow" />
        {extra}
        {isChanged ? (
          <Button size="small" onClick={document.discard}>
            Discard
          </Button>
        ) : null}
        {onClose ? (
          <Button
            size="small"
            onClick={onClose}
            disabled={isChanged}
            title={isChanged ? 'Save or discard first' : undefined}
          >
            Close
          </Button>
        ) : null}
        <Button
          size="small"
          type="primary"
          disabled={!isChanged || isBehind || isGone}
          loading={document.isSaving}
          onClick={() => void document.save()}
        >
          Save
        </Button>
      </div>
      <div role="status" aria-live="polite">
        {isBehind || isGone ? (
          <Behind path={path} document={document} />
        ) : refused && problems.length === 0 ? (
          <p className="problems refused">
            <b>{refused.title}.</b> {refused.detail}
          </p>
        ) : null}
        {problems.length > 0 ? (
          <ul className={`problems${refused ? ' refused' : ''}`}>
            {refused ? <li className="lead">{refused.title}.</li> : null}
            {[...mine, ...elsewhere].map((one, index) => (
              <li key={index}>
                <code>
                  {one.file === path
                    ? one.line === undefined
                      ? (one.path ?? '')
                      : `line ${one.line}`
                    : `${one.file}${one.line === undefined ? '' : `:${one.line}`}`}
                </code>{' '}
                {one.message}
                {one.hint ? <span className="muted"> — {one.hint}</span> : null}
              </li>
            ))}
          </ul>
        ) : null}
      </div>
      <Suspense
        fallback={
          <div className="quiet small" style={{ height }}>
            Opening the editor …
          </div>
        }
      >
        {(stored || isGone) && parts ? (
          <div className="scroll">{parts(text, document.change)}</div>
        ) : stored || isGone ? (
          <CodeEditor
            key={path}
            text={text}
            language={languageOf(path)}
            height={height}
            line={line}
            problems={mine}
            onChange={document.change}
            complete={complete}
            label={`Text of ${path}`}
          />
        ) : (
          <div style={{ height }} />
        )}
      </Suspense>
    </div>
  )
}

/** What is stored is not what somebody began from: both are there, and one of them has to go. */
function Behind({ path, document }: { path: string; document: OpenDocument }) {
  const { stored, text, isGone } = document
  // What is deleted of the content is kept, with all that belongs to it: it is put back, not made anew.
  const isRestored = isGone && path.startsWith('content/')
  const [isCompared, setCompared] = useState(false)
  return (
    <>
      <div className="problems behind">
        <p>
          <b>{isGone ? 'It was deleted meanwhile.' : 'Another text was saved meanwhile.'}</b> Yours is still
          here{isRestored ? ': put it back under Content, and then save it' : ''}.{' '}
          {isGone ? <Copy text={text} what="what is typed" /> : null}
        </p>
        {isGone ? null : (
          <Button size="small" aria-expanded={isCompared} onClick={() => setCompared(!isCompared)}>
            {isCompared ? 'Hide what differs' : 'What differs'}
          </Button>
        )}
        <Button size="small" onClick={document.discard}>
          {isGone ? 'Let it go' : 'Take the stored one'}
        </Button>
        {isRestored ? null : (
          <Button size="small" danger loading={document.isSaving} onClick={() => void document.saveMine()}>
            {isGone ? 'Make it again' : 'Save mine'}
          </Button>
        )}
      </div>
      {isCompared && stored ? <DocumentDiff document={path} before={stored.text} after={text} /> : null}
    </>
  )
}
