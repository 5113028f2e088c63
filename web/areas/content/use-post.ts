/** One post being written: what is stored, what is typed, saving, and keeping what is not saved yet. */
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect, useRef, useState } from 'react'
import type { PostMatter } from '../../../core/definition/schemas.ts'
import type { Post, ProblemItem } from '../../../server/workbench/contract.ts'
import { ApiProblem, call } from '../../api/client.ts'
import { refreshLists } from './refresh.ts'

export interface Parts {
  matter: PostMatter
  body: string
}

/** Typed here and not saved: kept in the browser, so that neither a reload nor a lost connection loses it. */
interface Kept {
  version: number
  parts: Parts
}

const EMPTY: Parts = { matter: { title: '' }, body: '' }
/** A draft is saved by itself this long after the last change. */
const AUTOSAVE_MILLISECONDS = 2_500

const keyOf = (slug: string | null) => `esquina post ${slug ?? '(new)'}`

function readKept(slug: string | null): Kept | null {
  try {
    const text = localStorage.getItem(keyOf(slug))
    return text === null ? null : (JSON.parse(text) as Kept)
  } catch {
    return null
  }
}
function keep(slug: string | null, kept: Kept | null): void {
  try {
    if (kept === null) localStorage.removeItem(keyOf(slug))
    else localStorage.setItem(keyOf(slug), JSON.stringify(kept))
  } catch {
    // A browser without room keeps nothing; the warning before leaving is what is left.
  }
}

export type SaveState =
  | { kind: 'idle' }
  | { kind: 'saving' }
  | { kind: 'saved'; at: number }
  | { kind: 'refused'; title: string; detail: string | undefined; problems: ProblemItem[] }
  | { kind: 'conflict'; version: number; text: string }

export interface PostWork {
  stored: Post | undefined
  error: Error | null
  parts: Parts
  isChanged: boolean
  /** True when what is shown was typed before and never saved. */
  isBroughtBack: boolean
  save: SaveState
  change(matter: Partial<Record<keyof PostMatter, unknown>>): void
  changeBody(body: string): void
  saveNow(version?: number): Promise<void>
  discard(): void
  /** Takes the stored version in place of one's own. */
  takeStored(): Promise<void>
}

/** @param slug null for a new post  @param moved told when the post got another slug, or its first */
export function usePost(slug: string | null, moved: (slug: string) => void): PostWork {
  const client = useQueryClient()
  const stored = useQuery({
    queryKey: ['post', slug],
    queryFn: () => call('GET /api/post', { query: { slug: slug ?? '' } }),
    enabled: slug !== null,
    staleTime: 0,
  })
  const [kept] = useState(() => readKept(slug))
  const [draft, setDraft] = useState<Parts | null>(kept?.parts ?? null)
  const [save, setSave] = useState<SaveState>({ kind: 'idle' })
  const [isBroughtBack, setBroughtBack] = useState(kept !== null)
  // The version that what is typed here began from: what somebody else saves meanwhile is a conflict.
  const [base, setBase] = useState<number | null>(kept?.version ?? null)
  const post = stored.data
  const ofStored: Parts | undefined = post && { matter: post.matter, body: post.body }
  // Between a first save and its answer under the new slug, what is shown must not change, or the cursor is lost.
  const [sentLast, setSentLast] = useState<Parts | null>(null)
  const parts = draft ?? ofStored ?? sentLast ?? EMPTY
  const isChanged = draft !== null && JSON.stringify(draft) !== JSON.stringify(ofStored ?? EMPTY)

  const edit = (next: Parts) => {
    setDraft(next)
    const version = base ?? post?.version ?? 0
    if (base === null) setBase(version)
    keep(slug, { version, parts: next })
    if (save.kind !== 'conflict') setSave({ kind: 'idle' })
  }

  const forget = () => {
    setDraft(null)
    setBase(null)
    setBroughtBack(false)
    keep(slug, null)
  }

  const isSaving = useRef(false)
  const saveNow = async (version = base ?? post?.version ?? 0) => {
    if (isSaving.current || draft === null) return
    isSaving.current = true
    setSave({ kind: 'saving' })
    const sent = draft
    try {
      const answer =
        slug === null
          ? await call('POST /api/posts', { body: sent })
          : await call('PUT /api/post', { query: { slug }, body: { version, ...sent } })
      const fresh = await call('GET /api/post', { query: { slug: answer.slug } })
      client.setQueryData(['post', answer.slug], fresh)
      setSentLast(sent)
      const now = latest.current
      // What was typed while it was saved is not saved yet.
      if (now === sent) forget()
      else {
        keep(slug, null)
        setBase(answer.version)
        if (now) keep(answer.slug, { version: answer.version, parts: now })
      }
      setSave({ kind: 'saved', at: Date.now() })
      if (answer.slug !== slug) moved(answer.slug)
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
              detail:
                details.status === 413
                  ? 'A post may have 500,000 characters. Your text is still here.'
                  : details.detail,
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

  // Drafts save themselves; what readers see is saved on purpose.
  const savesItself =
    isChanged &&
    (slug === null ? parts.matter.title.trim() !== '' : post?.state === 'draft') &&
    save.kind === 'idle'
  const isReady = savesItself && parts.matter.published === undefined
  useEffect(() => {
    if (!isReady) return
    const timer = setTimeout(() => void saveLatest.current(), AUTOSAVE_MILLISECONDS)
    return () => clearTimeout(timer)
  }, [isReady, draft])

  useEffect(() => {
    if (!isChanged) return
    const warn = (event: BeforeUnloadEvent) => event.preventDefault()
    window.addEventListener('beforeunload', warn)
    return () => window.removeEventListener('beforeunload', warn)
  }, [isChanged])

  return {
    stored: post,
    error: stored.error,
    parts,
    isChanged,
    isBroughtBack: isBroughtBack && isChanged,
    save,
    change: (changes) => {
      const matter = Object.fromEntries(
        Object.entries({ ...parts.matter, ...changes }).filter(
          ([, value]) => value !== undefined && value !== '',
        ),
      ) as PostMatter
      edit({ ...parts, matter: { ...matter, title: matter.title ?? '' } })
    },
    changeBody: (body) => {
      if (body !== parts.body) edit({ ...parts, body })
    },
    saveNow,
    discard: () => {
      forget()
      setSave({ kind: 'idle' })
    },
    takeStored: async () => {
      await stored.refetch()
      forget()
      setSave({ kind: 'idle' })
    },
  }
}
