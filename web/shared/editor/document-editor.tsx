/** Edits a document: its text, its problems at their lines, and conflicts with other saves. */
import { Button } from 'antd'
import { lazy, Suspense, useDeferredValue, useEffect, useMemo, useRef, useState, type ReactNode } from 'react'
import type { ProblemItem } from '../../../contract/problem.ts'
import type { Complete } from './code-editor.tsx'
import type { CursorHandlers } from './cursor-tools.ts'
import { DocumentDiff } from './diff.tsx'
import { languageOf } from './documents.ts'
import { starterOf } from './starters.ts'
import { useWrite } from '../../api/queries.ts'
import { isOnlyTried } from '../changes/insist.tsx'
import { useNotices } from '../changes/notices.tsx'
import { Copy } from '../marks/marks.tsx'
import { useDocument, type OpenDocument, type Saved } from './use-document.ts'
import { useSaveKey } from './use-unsaved.ts'
import { focusLater } from '../focus/focus.ts'
import { words } from '../words/words.ts'
import './document-editor.css'

const CodeEditor = lazy(async () => ({ default: (await import('./code-editor.tsx')).CodeEditor }))

interface Props extends CursorHandlers {
  path: string
  /** 1-based; the editor scrolls to it. */
  line?: number | undefined
  height: string
  onSaved?: (saved: Saved) => void
  onClose?: () => void
  /** Shown next to the buttons. */
  extra?: ReactNode
  /** Called with the typed text, saved or not. */
  onText?: (text: string) => void
  /** A form that is shown instead of the text. */
  parts?: ((text: string, change: (text: string) => void) => ReactNode) | undefined
  complete?: Complete | undefined
  /** Faults that do not keep the document from being saved. */
  hints?: readonly ProblemItem[]
  /** Shown next to the path. */
  note?: ReactNode
  /** Returns the text with its lines indented; the text itself if there is nothing to change. */
  format?: ((text: string) => string) | undefined
}

const NO_HINTS: readonly ProblemItem[] = []

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
  hints = NO_HINTS,
  onLine,
  onSelection,
  describe,
  follow,
  note,
  format,
}: Props) {
  const document = useDocument(path, { onSaved })
  const { stored, text, isChanged, isOutdated, isDeleted, problems, refused } = document
  const tell = useRef(onText)
  useEffect(() => {
    tell.current = onText
  })
  useEffect(() => {
    if (stored) tell.current?.(text)
  }, [text, stored])

  // Formatting a long text takes a moment, which typing does not wait for.
  const settled = useDeferredValue(text)
  const isFormatted = useMemo(() => format?.(settled) === settled, [format, settled])
  useSaveKey(() => void document.save())
  const root = useRef<HTMLDivElement>(null)
  /** Focuses the text, or its parts: there the work goes on when a button disappears or is disabled. */
  const focusText = () =>
    focusLater(() => root.current?.querySelector<HTMLElement>(':is(.cm-content, input):not(.editor-head *)'))
  const discard = () => {
    document.discard()
    focusText()
  }
  const saveByButton = async () => {
    await document.save()
    focusText()
  }

  if (document.error && !isDeleted)
    return (
      <div className="editor is-missing">
        <p className="quiet small" role="alert">
          {document.error.message}
          {onClose ? (
            <>
              {' '}
              <Button size="small" onClick={onClose}>
                {words.close}
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
      ref={root}
      className="editor"
      onKeyDown={(event) => {
        if (event.key === 'Escape' && !event.defaultPrevented && onClose && !isChanged) onClose()
      }}
    >
      <div className="editor-head">
        <code>{path}</code>
        {note}
        {isChanged ? <span className="muted">{words.editor.unsaved}</span> : null}
        <span className="grow" />
        {extra}
        {format ? (
          <Button
            size="small"
            title={words.editor.formatHint}
            onClick={() => document.change(format(text))}
            disabled={isFormatted}
          >
            {words.editor.format}
          </Button>
        ) : null}
        {isChanged ? (
          <Button size="small" onClick={discard}>
            {words.discard}
          </Button>
        ) : null}
        {onClose ? (
          <Button
            size="small"
            onClick={onClose}
            disabled={isChanged}
            title={isChanged ? words.editor.closeBlocked : undefined}
          >
            {words.close}
          </Button>
        ) : null}
        <Button
          size="small"
          type="primary"
          disabled={!isChanged || isOutdated || isDeleted}
          loading={document.isSaving}
          onClick={() => void saveByButton()}
        >
          {words.save}
        </Button>
      </div>
      <div role="status" aria-live="polite">
        {isOutdated || isDeleted ? (
          <Conflict path={path} document={document} discard={discard} />
        ) : refused && problems.length === 0 ? (
          <p className="problems refused">
            <b>{refused.title}</b> {refused.detail}
          </p>
        ) : null}
        {problems.length > 0 ? (
          <ul className={`problems${refused ? ' refused' : ''}`}>
            {refused ? <li className="lead">{words.editor.refused}</li> : null}
            {refused && isOnlyTried(problems) ? (
              <li>
                <Button size="small" loading={document.isSaving} onClick={() => void document.saveAnyway()}>
                  {words.editor.saveAnyway}
                </Button>
              </li>
            ) : null}
            {[...mine, ...elsewhere].map((one, index) => (
              <li key={index}>
                <code>
                  {one.file === path
                    ? one.line === undefined
                      ? (one.path ?? '')
                      : words.editor.line(one.line)
                    : `${one.file}${one.line === undefined ? '' : `:${one.line}`}`}
                </code>{' '}
                {one.message}
                {one.hint ? <span className="muted"> {one.hint}</span> : null}
                {one.missing === undefined ? null : (
                  <CreateMissing path={one.missing} onCreated={() => void document.validate()} />
                )}
              </li>
            ))}
          </ul>
        ) : null}
      </div>
      <Suspense
        fallback={
          <div className="quiet small" style={{ height }}>
            {words.editor.opening}
          </div>
        }
      >
        {(stored || isDeleted) && parts ? (
          <div className="scroll">{parts(text, document.change)}</div>
        ) : stored || isDeleted ? (
          <CodeEditor
            key={path}
            text={text}
            language={languageOf(path)}
            height={height}
            line={line}
            problems={[...mine, ...hints.map((one) => ({ ...one, isHint: true }))]}
            onLine={onLine}
            onSelection={onSelection}
            describe={describe}
            follow={follow}
            onChange={document.change}
            complete={complete}
            label={words.editor.label(path)}
          />
        ) : (
          <div style={{ height }} />
        )}
      </Suspense>
    </div>
  )
}

/** Offers to create a document that this one refers to. */
function CreateMissing({ path, onCreated }: { path: string; onCreated(): void }) {
  const write = useWrite()
  const notices = useNotices()
  const starter = starterOf(path)
  if (starter === undefined) return null
  const create = () =>
    write('PUT /api/document', { body: { path, text: starter, version: 0 } }).then(() => {
      notices.done(words.editor.created(path))
      onCreated()
    }, notices.failed)
  return (
    <>
      {' '}
      <Button size="small" onClick={() => void create()}>
        {words.editor.createMissing(path)}
      </Button>
    </>
  )
}

interface ConflictProps {
  path: string
  document: OpenDocument
  discard(): void
}

/** The stored text is not the one that the unsaved text is based on. One of both has to be chosen. */
function Conflict({ path, document, discard }: ConflictProps) {
  const { stored, text, isDeleted } = document
  // Deleted content is kept with everything that belongs to it, so it is restored instead of created again.
  const isRestored = isDeleted && path.startsWith('content/')
  const [isCompared, setCompared] = useState(false)
  const { editor } = words
  return (
    <>
      <div className="problems behind">
        <p>
          <b>{isDeleted ? editor.deleted : editor.conflict}</b>{' '}
          {isRestored ? editor.restoreFirst : editor.yoursIsKept}{' '}
          {isDeleted ? <Copy text={text} what={editor.typedText} /> : null}
        </p>
        {isDeleted ? null : (
          <Button size="small" aria-expanded={isCompared} onClick={() => setCompared(!isCompared)}>
            {isCompared ? editor.hideComparison : editor.compare}
          </Button>
        )}
        <Button size="small" onClick={discard}>
          {isDeleted ? editor.dropMine : editor.useStored}
        </Button>
        {isRestored ? null : (
          <Button size="small" danger loading={document.isSaving} onClick={() => void document.overwrite()}>
            {isDeleted ? editor.createAgain : editor.overwrite}
          </Button>
        )}
      </div>
      {isCompared && stored ? <DocumentDiff document={path} before={stored.text} after={text} /> : null}
    </>
  )
}
