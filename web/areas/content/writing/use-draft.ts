/** A text being written: what is stored, what is typed, saving, and keeping what is not saved yet. */
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect, useRef, useState } from 'react'
import type { ProblemItem } from '../../../../contract/operations.ts'
import { ApiProblem } from '../../../api/client.ts'
import { useSaveKey, useWarnBeforeLeaving } from '../../../shared/editor/use-unsaved.ts'
import { refreshLists } from '../parts/refresh.ts'

/** Typed here and not saved: kept in the browser, so that neither a reload nor a lost connection loses it. */
interface Kept<Parts> {
  version: number
  parts: Parts
}

/** A draft is saved by itself this long after the last change. */
const AUTOSAVE_MILLISECONDS = 2_500

/** What is written, and how it is read and saved. `Parts` is what an author changes. */
export interface Writing<Parts, Stored extends { version: number }> {
  /** post, page */
  kind: string
  empty: Parts
  read(name: string): Promise<Stored>
  partsOf(stored: Stored): Parts
  /** @returns the name it is stored under now */
  create(parts: Parts): Promise<{ name: string; version: number }>
  update(name: string, version: number, parts: Parts): Promise<{ name: string; version: number }>
  /** True for what nobody else sees yet. */
  savesItself(parts: Parts, stored: Stored | undefined): boolean
  /** What to say when it is too large. */
  tooLarge: string
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
  /** What is stored is being asked for anew: it may have changed. */
  isAsking: boolean
  parts: Parts
  isChanged: boolean
  /** True when what is shown was typed before and never saved. */
  isBroughtBack: boolean
  save: SaveState
  edit(parts: Parts): void
  saveNow(version?: number): Promise<void>
  discard(): void
  /** Takes the stored version in place of one's own. */
  takeStored(): Promise<void>
}

/** @param name null for a new one  @param moved told when it got another name, or its first */
export function useDraft<Parts, Stored extends { version: number }>(
  writing: Writing<Parts, Stored>,
  name: string | null,
  moved: (name: string) => void,
): Draft<Parts, Stored> {
  const { kind, empty } = writing
  const client = useQueryClient()
  const query = useQuery({
    queryKey: [kind, name],
    queryFn: () => writing.read(name ?? ''),
    enabled: name !== null,
    staleTime: 0,
  })
  const [kept] = useState(() => readKept<Parts>(kind, name))
  const [draft, setDraft] = useState<Parts | null>(kept?.parts ?? null)
  const [save, setSave] = useState<SaveState>({ kind: 'idle' })
  const [isBroughtBack, setBroughtBack] = useState(kept !== null)
  // The version that what is typed here began from: what somebody else saves meanwhile is a conflict.
  const [base, setBase] = useState<number | null>(kept?.version || null)
  const stored = query.data
  const ofStored = stored && writing.partsOf(stored)
  // Between a first save and its answer under the new name, what is shown must not change, or the cursor is lost.
  const [sentLast, setSentLast] = useState<Parts | null>(null)
  const parts = draft ?? ofStored ?? sentLast ?? empty
  const isChanged = draft !== null && JSON.stringify(draft) !== JSON.stringify(ofStored ?? empty)

  const edit = (next: Parts) => {
    setDraft(next)
    // While what was just made is not known yet, there is no version to begin from: the first that is known counts.
    const version = base ?? stored?.version
    if (base === null && version !== undefined) setBase(version)
    keep(kind, name, { version: version ?? 0, parts: next })
    if (save.kind !== 'conflict') setSave({ kind: 'idle' })
  }

  const forget = () => {
    setDraft(null)
    setBase(null)
    setBroughtBack(false)
    keep(kind, name, null)
  }

  const isSaving = useRef(false)
  const saveNow = async (version = base ?? stored?.version ?? 0) => {
    if (isSaving.current || draft === null) return
    isSaving.current = true
    setSave({ kind: 'saving' })
    const sent = draft
    try {
      const answer = await (name === null ? writing.create(sent) : writing.update(name, version, sent))
      // It is saved now, whatever becomes of asking for it anew: from here on nothing may be told as refused.
      const fresh = await writing.read(answer.name).catch(() => undefined)
      if (fresh) client.setQueryData([kind, answer.name], fresh)
      else void client.invalidateQueries({ queryKey: [kind, answer.name] })
      setSentLast(sent)
      const now = latest.current
      // What was typed while it was saved is not saved yet; and what is not known anew is still shown from here.
      if (now === sent && fresh) forget()
      else {
        keep(kind, name, null)
        setBase(answer.version)
        if (now) keep(kind, answer.name, { version: answer.version, parts: now })
      }
      setSave({ kind: 'saved', at: Date.now() })
      if (answer.name !== name) moved(answer.name)
      void refreshLists(client)
    } catch (error) {
      if (!(error instanceof ApiProblem)) throw error
      const { details } = error
      setSave(
        details.status === 409 && details.version !== undefined
          ? { kind: 'conflict', version: details.version, text: details.text ?? '' }
          : {
              kind: 'refused',
              title: details.title,
              detail: details.status === 413 ? writing.tooLarge : details.detail,
              problems: details.problems ?? [],
            },
      )
    } finally {
      isSaving.current = false
    }
  }

  const latest = useRef(draft)
  const saveLatest = useRef(saveNow)
  useEffect(() => {
    latest.current = draft
    saveLatest.current = saveNow
  })

  const isReady = isChanged && save.kind === 'idle' && writing.savesItself(parts, stored)
  useEffect(() => {
    if (!isReady) return
    const timer = setTimeout(() => void saveLatest.current(), AUTOSAVE_MILLISECONDS)
    return () => clearTimeout(timer)
  }, [isReady, draft])

  useWarnBeforeLeaving(isChanged)
  useSaveKey(() => void saveLatest.current())

  return {
    stored,
    error: query.error,
    isAsking: query.isFetching,
    parts,
    isChanged,
    isBroughtBack: isBroughtBack && isChanged,
    save,
    edit,
    saveNow,
    discard: () => {
      forget()
      setSave({ kind: 'idle' })
    },
    takeStored: async () => {
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
    // A browser without room keeps nothing; the warning before leaving is what is left.
  }
}
