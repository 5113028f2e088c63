/** A text that is being written: what is stored, what is typed, saving, and unsaved text that survives a reload. */
import { useQueryClient } from '@tanstack/react-query'
import { useEffect, useRef, useState } from 'react'
import type { DroppedCopy } from '../../../../contract/fields.ts'
import type { AnswerOf } from '../../../../contract/operations.ts'
import type { ProblemItem } from '../../../../contract/problem.ts'
import { ApiProblem, call, type Input } from '../../../api/client.ts'
import { invalidateReads, setRead, useRead, useWrite, type Write } from '../../../api/queries.ts'
import { useNotices } from '../../../shared/changes/notices.tsx'
import { useSaveKey, useWarnBeforeLeaving } from '../../../shared/editor/use-unsaved.ts'
import { words } from '../words.ts'

/** Unsaved text, which the browser stores. */
interface Kept<Parts> {
  /** The version that it is based on. */
  version: number
  parts: Parts
}

/** How long after the last change a draft is saved automatically, in milliseconds. */
const AUTOSAVE_DELAY = 2_500

type ReadName = 'GET /api/post' | 'GET /api/page'

export interface Saved {
  /** The current name. */
  name: string
  version: number
  purged: readonly DroppedCopy[]
}

/** How one kind of content is read and saved. `Parts` is what an author can change. */
export interface Writing<Parts, Name extends ReadName> {
  kind: 'post' | 'page'
  empty: Parts
  read: Name
  inputOf(name: string): Input<Name>
  partsOf(stored: AnswerOf<Name>): Parts
  versionOf(stored: AnswerOf<Name>): number
  titleOf(parts: Parts): string
  create(write: Write, parts: Parts): Promise<Saved>
  update(write: Write, name: string, version: number, parts: Parts): Promise<Saved>
  /** Returns whether unsaved changes are saved automatically, because readers do not see them. */
  isAutosaved(parts: Parts, stored: AnswerOf<Name> | undefined): boolean
}

export type SaveState =
  | { kind: 'idle' }
  | { kind: 'saving' }
  | { kind: 'saved'; at: number }
  | { kind: 'refused'; title: string; detail: string | undefined; problems: ProblemItem[] }
  | { kind: 'conflict'; version: number; text: string }

export interface Draft<Parts, Stored> {
  stored: Stored | undefined
  error: Error | null
  /** Whether the row is being read for the first time: until then there is nothing to edit. */
  isOpening: boolean
  /** Whether the stored row is being read again, so that its version may be outdated. */
  isReading: boolean
  parts: Parts
  isChanged: boolean
  /** Whether the shown text was typed before a reload and is not saved. */
  isRestored: boolean
  save: SaveState
  edit(parts: Parts): void
  saveNow(version?: number): Promise<void>
  discard(): void
  /** Replaces the unsaved text with what is stored. */
  useStored(): Promise<void>
}

/**
 * Its state belongs to one row: use it in a component with a key from `useOpenKey`.
 * @param name null for a new row
 * @param onRenamed called with the new name after a save, and with the first name of a new row
 */
export function useDraft<Parts, Name extends ReadName>(
  writing: Writing<Parts, Name>,
  name: string | null,
  onRenamed: (name: string) => void,
): Draft<Parts, AnswerOf<Name>> {
  const { kind, empty } = writing
  const client = useQueryClient()
  const write = useWrite()
  const notices = useNotices()
  const query = useRead(writing.read, writing.inputOf(name ?? ''), { enabled: name !== null, staleTime: 0 })
  const [kept] = useState(() => readKept<Parts>(kind, name))
  const [draft, setDraft] = useState<Parts | null>(kept?.parts ?? null)
  const [save, setSave] = useState<SaveState>({ kind: 'idle' })
  const [isRestored, setRestored] = useState(kept !== null)
  // The version that the typed text is based on. If another one is stored since, that is a conflict.
  const [base, setBase] = useState<number | null>(kept?.version || null)
  const stored = query.data
  const ofStored = stored && writing.partsOf(stored)
  const storedVersion = stored && writing.versionOf(stored)
  // Between the first save and the answer under the new name, the shown text must not change, or the cursor is lost.
  const [lastSent, setLastSent] = useState<Parts | null>(null)
  const parts = draft ?? ofStored ?? lastSent ?? empty
  const isChanged = draft !== null && JSON.stringify(draft) !== JSON.stringify(ofStored ?? empty)

  /**
   * The row as the last save left it. The address, and with it `name`, follows later: what is typed or saved until then
   * belongs to this row, not to a new one.
   */
  const row = useRef<{ name: string | null; version: number | null }>({ name, version: null })
  useEffect(() => {
    row.current = { name, version: null }
  }, [name, storedVersion])

  const isOpening = name !== null && stored === undefined && draft === null && lastSent === null

  const edit = (next: Parts) => {
    // What is edited before the stored row is known would replace the rest of it with nothing.
    if (isOpening) return
    setDraft(next)
    // A row that was just created has no known version yet. The first known one counts.
    const version = base ?? storedVersion
    if (base === null && version !== undefined) setBase(version)
    keep(kind, row.current.name, { version: row.current.version ?? version ?? 0, parts: next })
    if (save.kind !== 'conflict') setSave({ kind: 'idle' })
  }

  const forget = () => {
    setDraft(null)
    setBase(null)
    setRestored(false)
    keep(kind, row.current.name, null)
  }

  const report = (saved: Saved, sent: Parts, previous: { parts: Parts } | undefined) => {
    const undo =
      previous &&
      (async () => {
        await writing.update(write, saved.name, saved.version, previous.parts)
      })
    notices.done(words.writing.wasSaved(writing.titleOf(sent)), undo, { purged: saved.purged })
  }

  const isSaving = useRef(false)
  const isOpen = useRef(true)
  useEffect(() => {
    isOpen.current = true
    return () => {
      isOpen.current = false
    }
  }, [])
  const isWantedAgain = useRef(false)
  const [finished, setFinished] = useState(0)
  const saveAs = async (version: number, isAutomatic: boolean) => {
    if (isSaving.current) {
      isWantedAgain.current ||= !isAutomatic
      return
    }
    if (draft === null) return
    isSaving.current = true
    const { name } = row.current
    setSave({ kind: 'saving' })
    const sent = draft
    const previous = name !== null && ofStored ? { parts: ofStored } : undefined
    // Invalidates reads itself: first what is open, then all others.
    const quietly: Write = (operation, input) => call(operation, input)
    try {
      const saved = await (name === null
        ? writing.create(quietly, sent)
        : writing.update(quietly, name, version, sent))
      // It is saved now. An error of the read that follows is not reported as an error of the save.
      const fresh = await call(writing.read, writing.inputOf(saved.name)).catch(() => undefined)
      if (fresh) setRead(client, writing.read, writing.inputOf(saved.name), fresh)
      if (!isOpen.current) {
        // Something else was opened in the meantime. It stays open, and so does what was typed there.
        if (JSON.stringify(readKept<Parts>(kind, name)?.parts) === JSON.stringify(sent))
          keep(kind, name, null)
        await invalidateReads(client)
        return
      }
      row.current = { name: saved.name, version: saved.version }
      setLastSent(sent)
      const now = latest.current
      // What was typed during the save is not saved yet.
      keep(kind, name, null)
      if (now === sent && fresh) forget()
      else {
        setBase(saved.version)
        if (now) keep(kind, saved.name, { version: saved.version, parts: now })
      }
      setSave({ kind: 'saved', at: Date.now() })
      if (!isAutomatic) report(saved, sent, previous)
      if (saved.name !== name) onRenamed(saved.name)
      void invalidateReads(client, fresh ? [writing.read] : [])
    } catch (error) {
      isWantedAgain.current = false
      if (!(error instanceof ApiProblem)) throw error
      const { details } = error
      setSave(
        details.status === 409 && details.version !== undefined
          ? { kind: 'conflict', version: details.version, text: details.text ?? '' }
          : {
              kind: 'refused',
              title: details.title,
              detail: details.status === 413 ? words.writing.tooLarge(kind) : details.detail,
              problems: details.problems ?? [],
            },
      )
    } finally {
      isSaving.current = false
      setFinished((times) => times + 1)
    }
  }
  const versionNow = () => row.current.version ?? base ?? storedVersion ?? 0
  const saveNow = (version = versionNow()) => saveAs(version, false)
  const autosave = () => saveAs(versionNow(), true)

  const latest = useRef(draft)
  const saveLatest = useRef({ saveNow, autosave })
  useEffect(() => {
    latest.current = draft
    saveLatest.current = { saveNow, autosave }
  })

  // Who saves during a save wants what was typed since to be saved, too.
  useEffect(() => {
    if (!isWantedAgain.current) return
    isWantedAgain.current = false
    void saveLatest.current.saveNow()
  }, [finished])

  const isReady = isChanged && save.kind === 'idle' && writing.isAutosaved(parts, stored)
  useEffect(() => {
    if (!isReady) return
    const timer = setTimeout(() => void saveLatest.current.autosave(), AUTOSAVE_DELAY)
    return () => clearTimeout(timer)
  }, [isReady, draft])

  useWarnBeforeLeaving(isChanged)
  useSaveKey(() => void saveLatest.current.saveNow())

  return {
    stored,
    error: query.error,
    isOpening,
    isReading: query.isFetching,
    parts,
    isChanged,
    isRestored: isRestored && isChanged,
    save,
    edit,
    saveNow,
    discard: () => {
      forget()
      setSave({ kind: 'idle' })
    },
    useStored: async () => {
      await query.refetch()
      forget()
      setSave({ kind: 'idle' })
    },
  }
}

const keyOf = (kind: string, name: string | null) => `esquina ${kind} ${name ?? '(new)'}`

function readKept<Parts>(kind: string, name: string | null): Kept<Parts> | null {
  try {
    const text = localStorage.getItem(keyOf(kind, name))
    return text === null ? null : (JSON.parse(text) as Kept<Parts>)
  } catch {
    return null
  }
}

function keep<Parts>(kind: string, name: string | null, kept: Kept<Parts> | null): void {
  try {
    if (kept === null) localStorage.removeItem(keyOf(kind, name))
    else localStorage.setItem(keyOf(kind, name), JSON.stringify(kept))
  } catch {
    // If the browser's storage is full, the warning before leaving is all that protects the text.
  }
}
