/** One document of the definition or the content: what is stored, what is typed, its problems, and saving it. */
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect, useRef, useState } from 'react'
import type { AnswerOf, ProblemDetails, ProblemItem } from '../../../contract/operations.ts'
import { ApiProblem, call } from '../../api/client.ts'
import { useWarnBeforeLeaving } from './use-unsaved.ts'
import { useWritten } from './written.ts'

export interface Saved {
  path: string
  /** Before the save, and its version after it: enough to undo. */
  previous: string
  answer: AnswerOf<'PUT /api/document'>
}

export interface OpenDocument {
  /** As it is stored; undefined until it is known. */
  stored: AnswerOf<'GET /api/document'> | undefined
  /** It could not be read. */
  error: Error | null
  /** It is not there any more, and what was typed into it is. */
  isGone: boolean
  text: string
  isChanged: boolean
  /** Another text is stored than the one that what is typed was begun from. */
  isBehind: boolean
  problems: ProblemItem[]
  /** Why the last save was refused, until something is changed about it. */
  refused: ProblemDetails | null
  isSaving: boolean
  change(text: string): void
  save(): Promise<void>
  /** Puts what is typed in place of what somebody else saved, or of what is gone. */
  saveMine(): Promise<void>
  /** Takes what is stored in place of what is typed. */
  discard(): void
}

/** Refused, because what is stored is not what was read. */
const isLost = (error: unknown): boolean =>
  error instanceof ApiProblem && (error.details.status === 409 || error.details.status === 404)

const CHECK_AFTER_MILLISECONDS = 350

/** @param onSaved told of a save that was done */
export function useDocument(path: string, onSaved?: (saved: Saved) => void): OpenDocument {
  const client = useQueryClient()
  const query = useQuery({
    queryKey: ['document', path],
    queryFn: () => call('GET /api/document', { query: { path } }),
    staleTime: 0,
    gcTime: 0,
  })
  const written = useWritten(({ of }) => of[path])
  const { write, forget } = useWritten.getState()
  const [problems, setProblems] = useState<ProblemItem[]>([])
  const [refused, setRefused] = useState<ProblemDetails | null>(null)
  const [isSaving, setSaving] = useState(false)
  const isMissing = query.error instanceof ApiProblem && query.error.details.status === 404
  const isGone = isMissing && written !== undefined
  const stored = isMissing ? undefined : query.data
  const text = written?.text ?? stored?.text ?? ''
  const isChanged =
    written !== undefined && (isGone || (stored !== undefined && written.text !== stored.text))
  const isBehind = isChanged && stored !== undefined && written.base !== stored.text

  // Somebody else stored the same.
  const isStored = written !== undefined && written.text === stored?.text
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
    }, CHECK_AFTER_MILLISECONDS)
    return () => {
      live = false
      clearTimeout(timer)
    }
  }, [isChanged, path, text])

  useWarnBeforeLeaving(isChanged)

  /** Saves; another version with the same text is nobody's work, and is gone over. */
  const send = async (version: number): Promise<Saved['answer']> => {
    try {
      return await call('PUT /api/document', { body: { path, text, version } })
    } catch (error) {
      if (!isLost(error)) throw error
      // What is stored now says itself that it is another one.
      const { data } = await query.refetch()
      if (!data || data.version === version || data.text !== stored?.text) throw error
      return await call('PUT /api/document', { body: { path, text, version: data.version } })
    }
  }

  const isBusy = useRef(false)
  const saveOver = async (version: number) => {
    if (isBusy.current) return
    isBusy.current = true
    setSaving(true)
    try {
      const answer = await send(version)
      const previous = stored?.text ?? ''
      client.setQueryData(['document', path], { path, text, version: answer.version })
      // What was typed while it was saved is not saved yet.
      const typed = useWritten.getState().of[path]?.text
      forget(path)
      if (typed !== undefined && typed !== text) write(answer.path, typed, text)
      // Of content, the database keeps the parts, and writes the text anew from them.
      if (path.startsWith('content/')) void client.invalidateQueries({ queryKey: ['document', path] })
      void client.invalidateQueries({ queryKey: ['documents'] })
      void client.invalidateQueries({ queryKey: ['routes'] })
      setProblems([])
      setRefused(null)
      onSaved?.({ path, previous, answer })
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
    isGone,
    text,
    isChanged,
    isBehind,
    problems: isChanged ? problems : [],
    refused: isChanged ? refused : null,
    isSaving,
    change: (next) => {
      if (stored || written) write(path, next, stored?.text ?? '')
    },
    save: async () => {
      if (isChanged && !isBehind && stored) await saveOver(stored.version)
    },
    saveMine: () => saveOver(stored?.version ?? 0),
    discard: () => {
      forget(path)
      setProblems([])
      setRefused(null)
    },
  }
}
