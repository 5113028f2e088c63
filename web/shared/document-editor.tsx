/** Opens, checks and saves one document: the text, its problems at their lines, and what saving did. */
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { Alert, Button } from 'antd'
import { lazy, Suspense, useEffect, useRef, useState, type ReactNode } from 'react'
import type { AnswerOf, ProblemItem } from '../../server/workbench/contract.ts'
import { ApiProblem, call } from '../api/client.ts'
import type { Complete } from './code-editor.tsx'
import { languageOf } from './documents.ts'
import './document-editor.css'

const CodeEditor = lazy(async () => ({ default: (await import('./code-editor.tsx')).CodeEditor }))

export interface Saved {
  path: string
  /** Before the save, and its version after it: enough to undo. */
  previous: string
  answer: AnswerOf<'PUT /api/document'>
}

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

const CHECK_AFTER_MILLISECONDS = 350

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
  const client = useQueryClient()
  const stored = useQuery({
    queryKey: ['document', path],
    queryFn: () => call('GET /api/document', { query: { path } }),
    staleTime: 0,
    gcTime: 0,
  })
  const [draft, setDraft] = useState<string | null>(null)
  const [problems, setProblems] = useState<ProblemItem[]>([])
  const [refused, setRefused] = useState<ApiProblem['details'] | null>(null)
  const [saving, setSaving] = useState(false)
  const text = draft ?? stored.data?.text ?? ''
  const changed = draft !== null && draft !== stored.data?.text
  const tell = useRef(onText)
  useEffect(() => {
    tell.current = onText
  })
  useEffect(() => {
    if (stored.data) tell.current?.(text)
  }, [text, stored.data])

  useEffect(() => {
    if (!changed) return
    let live = true
    const timer = setTimeout(() => {
      call('POST /api/document/check', { body: { path, text } }).then(
        (found) => live && setProblems(found.problems),
        () => undefined,
      )
    }, CHECK_AFTER_MILLISECONDS)
    return () => {
      live = false
      clearTimeout(timer)
    }
  }, [changed, path, text])

  useEffect(() => {
    if (!changed) return
    const warn = (event: BeforeUnloadEvent) => event.preventDefault()
    window.addEventListener('beforeunload', warn)
    return () => window.removeEventListener('beforeunload', warn)
  }, [changed])

  const save = async (version = stored.data?.version ?? 0) => {
    setSaving(true)
    try {
      const answer = await call('PUT /api/document', { body: { path, text, version } })
      const previous = stored.data?.text ?? ''
      client.setQueryData(['document', path], { path, text, version: answer.version })
      void client.invalidateQueries({ queryKey: ['documents'] })
      void client.invalidateQueries({ queryKey: ['routes'] })
      setDraft(null)
      setProblems([])
      setRefused(null)
      onSaved?.({ path, previous, answer })
    } catch (error) {
      if (!(error instanceof ApiProblem)) throw error
      setRefused(error.details)
      setProblems(error.details.problems ?? [])
    } finally {
      setSaving(false)
    }
  }

  const saveNow = useRef(save)
  useEffect(() => {
    saveNow.current = save
  })

  if (stored.error)
    return (
      <Alert
        type="error"
        title={stored.error.message}
        action={
          onClose ? (
            <Button size="small" onClick={onClose}>
              Close
            </Button>
          ) : undefined
        }
      />
    )
  const elsewhere = problems.filter((one) => one.file !== path)
  const mine = problems.filter((one) => one.file === path)
  return (
    <div
      className="editor"
      onKeyDown={(event) => {
        if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 's') {
          event.preventDefault()
          void saveNow.current()
        } else if (event.key === 'Escape' && !event.defaultPrevented && onClose && !changed) onClose()
      }}
    >
      <div className="editor-head">
        <code>{path}</code>
        {changed ? <span className="muted">not saved</span> : null}
        <span className="grow" />
        {extra}
        {changed ? (
          <Button
            size="small"
            onClick={() => {
              setDraft(null)
              setProblems([])
              setRefused(null)
            }}
          >
            Discard
          </Button>
        ) : null}
        {onClose ? (
          <Button
            size="small"
            onClick={onClose}
            disabled={changed}
            title={changed ? 'Save or discard first' : undefined}
          >
            Close
          </Button>
        ) : null}
        <Button size="small" type="primary" disabled={!changed} loading={saving} onClick={() => void save()}>
          Save
        </Button>
      </div>
      <div role="status" aria-live="polite">
        {refused?.status === 409 ? (
          <Alert
            type="warning"
            banner
            title={refused.title}
            description="Your text is still here. Take the stored version, or put yours in its place."
            action={
              <>
                <Button
                  size="small"
                  onClick={() => {
                    void stored.refetch().then(() => {
                      setDraft(null)
                      setRefused(null)
                    })
                  }}
                >
                  Take the stored one
                </Button>{' '}
                <Button size="small" danger onClick={() => void save(refused.version)}>
                  Save mine
                </Button>
              </>
            }
          />
        ) : refused && problems.length === 0 ? (
          <Alert type="error" banner title={refused.title} description={refused.detail} />
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
        {stored.data && parts ? (
          <div className="scroll">{parts(text, setDraft)}</div>
        ) : stored.data ? (
          <CodeEditor
            key={path}
            text={text}
            language={languageOf(path)}
            height={height}
            line={line}
            problems={mine}
            onChange={setDraft}
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
