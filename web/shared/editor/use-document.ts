/** A document that is being edited: the stored text, the typed text, its problems, and saving it. */
import { useQueryClient } from '@tanstack/react-query'
import { useEffect, useRef, useState } from 'react'
import type { AnswerOf } from '../../../contract/operations.ts'
import type { ProblemDetails, ProblemItem } from '../../../contract/problem.ts'
import { ApiProblem, call } from '../../api/client.ts'
import { invalidateReads, setRead, useRead, useWrite } from '../../api/queries.ts'
import { useInsist } from '../changes/insist.tsx'
import { useNotices } from '../changes/notices.tsx'
import { words } from '../words/words.ts'
import { useUnsavedTexts } from './unsaved-texts.ts'
import { useWarnBeforeLeaving } from './use-unsaved.ts'

export interface Saved {
  path: string
  /** The text before the save. */
  previous: string
  /** Whether it undoes an earlier save. */
  isUndo: boolean
  answer: AnswerOf<'PUT /api/document'>
}

export interface OpenDocument {
  /** Undefined until it is loaded. */
  stored: AnswerOf<'GET /api/document'> | undefined
  error: Error | null
  /** Whether it was deleted, although there is unsaved text for it. */
  isDeleted: boolean
  text: string
  isChanged: boolean
  /** Whether another text is stored than the one that the unsaved text is based on. */
  isOutdated: boolean
  problems: ProblemItem[]
  /** Why the last save was refused. */
  refused: ProblemDetails | null
  isSaving: boolean
  change(text: string): void
  /** Validates the typed text again, after other documents have changed. */
  validate(): void
  save(): Promise<void>
  /** Replaces what someone else has saved, or creates a deleted document again. */
  /** Saves although an address would fail from then on. */
  saveAnyway(): Promise<void>
  overwrite(): Promise<void>
  /** Discards the unsaved text. */
  discard(): void
}

const isOutdatedError = (error: unknown): boolean =>
  error instanceof ApiProblem && (error.isConflict || error.isNotFound)

/** How long typing must pause before the text is validated, in milliseconds. */
const CHECK_DELAY = 350

export interface DocumentOptions {
  /** Called after a save, and after it was undone. A notice reports the save and offers to undo it. */
  onSaved?: ((saved: Saved) => void) | undefined
}

export function useDocument(path: string, { onSaved }: DocumentOptions = {}): OpenDocument {
  const client = useQueryClient()
  const write = useWrite()
  const notices = useNotices()
  const insist = useInsist()
  const query = useRead('GET /api/document', { query: { path } }, { staleTime: 0, gcTime: 0 })
  const unsaved = useUnsavedTexts(({ of }) => of[path])
  const { write: keep, forget } = useUnsavedTexts.getState()
  const [problems, setProblems] = useState<ProblemItem[]>([])
  const [refused, setRefused] = useState<ProblemDetails | null>(null)
  const [isSaving, setSaving] = useState(false)
  const [validations, setValidations] = useState(0)
  const isMissing = query.error instanceof ApiProblem && query.error.isNotFound
  const isDeleted = isMissing && unsaved !== undefined
  const stored = isMissing ? undefined : query.data
  const text = unsaved?.text ?? stored?.text ?? ''
  const isChanged =
    unsaved !== undefined && (isDeleted || (stored !== undefined && unsaved.text !== stored.text))
  const isOutdated = isChanged && stored !== undefined && unsaved.base !== stored.text

  // Someone else has stored the same text.
  const isStored = unsaved !== undefined && unsaved.text === stored?.text
  useEffect(() => {
    if (isStored) forget(path)
  }, [isStored, path, forget])

  useEffect(() => {
    if (!isChanged) return
    let live = true
    const timer = setTimeout(() => {
      call('POST /api/document/check', { body: { path, text } }).then(
        (found) => live && setProblems(found.problems),
        () => undefined,
      )
    }, CHECK_DELAY)
    return () => {
      live = false
      clearTimeout(timer)
    }
  }, [isChanged, path, text, validations])

  useWarnBeforeLeaving(isChanged)

  /** Saves. A newer version with the same text as before is overwritten, since nothing is lost. */
  const send = async (version: number, insist: boolean): Promise<Saved['answer']> => {
    const more = insist ? { insist } : {}
    try {
      return await call('PUT /api/document', { body: { path, text, version, ...more } })
    } catch (error) {
      if (!isOutdatedError(error)) throw error
      const { data } = await query.refetch()
      if (!data || data.version === version || data.text !== stored?.text) throw error
      return await call('PUT /api/document', { body: { path, text, version: data.version, ...more } })
    }
  }

  const report = (saved: Saved) => {
    const { answer, previous } = saved
    onSaved?.(saved)
    notices.done(
      words.saved(answer.path),
      async () => {
        const body = { path: answer.path, text: previous, version: answer.version }
        const undone = await insist((more) => write('PUT /api/document', { body: { ...body, ...more } }))
        if (undone) onSaved?.({ path: answer.path, previous: text, isUndo: true, answer: undone })
        return undone !== undefined
      },
      { purged: answer.purged },
    )
  }

  const isBusy = useRef(false)
  const saveAs = async (version: number, insist = false) => {
    if (isBusy.current) return
    isBusy.current = true
    setSaving(true)
    try {
      const answer = await send(version, insist)
      const previous = stored?.text ?? ''
      setRead(client, 'GET /api/document', { query: { path } }, { path, text, version: answer.version })
      // What was typed during the save is not saved yet.
      const typed = useUnsavedTexts.getState().of[path]?.text
      forget(path)
      if (typed !== undefined && typed !== text) keep(answer.path, typed, text)
      // Content is stored in parts, from which its file is written again.
      void invalidateReads(client, path.startsWith('content/') ? [] : ['GET /api/document'])
      setProblems([])
      setRefused(null)
      report({ path, previous, isUndo: false, answer })
    } catch (error) {
      if (!(error instanceof ApiProblem)) throw error
      setRefused(error.details)
      setProblems(error.details.problems ?? [])
    } finally {
      isBusy.current = false
      setSaving(false)
    }
  }

  return {
    stored,
    error: stored ? null : query.error,
    isDeleted,
    text,
    isChanged,
    isOutdated,
    problems: isChanged ? problems : [],
    refused: isChanged ? refused : null,
    isSaving,
    change: (next) => {
      if (stored || unsaved) keep(path, next, stored?.text ?? '')
    },
    validate: () => {
      setRefused(null)
      setValidations((count) => count + 1)
    },
    save: async () => {
      if (isChanged && !isOutdated && stored) await saveAs(stored.version)
    },
    saveAnyway: async () => {
      if (isChanged && !isOutdated && stored) await saveAs(stored.version, true)
    },
    overwrite: () => saveAs(stored?.version ?? 0),
    discard: () => {
      forget(path)
      setProblems([])
      setRefused(null)
    },
  }
}
