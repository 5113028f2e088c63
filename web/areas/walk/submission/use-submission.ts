/** A comment form that is walked: what is typed, and the walk of it. */
import { useQueryClient } from '@tanstack/react-query'
import { create } from 'zustand'
import type { BodyOf } from '../../../../contract/operations.ts'
import type { SubmissionWalk } from '../../../../contract/walk.ts'
import { ApiProblem, call } from '../../../api/client.ts'
import { errorText } from '../../../shared/words/error-text.ts'
import { invalidateComments } from '../../../api/queries.ts'

type Wanted = BodyOf<'POST /api/walk/submission'>
export type Typed = Required<Omit<Wanted, 'path' | 'keep' | 'fields'>> & Required<Wanted['fields']>

export const EMPTY: Typed = {
  name: '',
  email: '',
  site: '',
  text: '',
  parent: '',
  isHoneypotFilled: false,
  seconds: 60,
  token: 'own',
  writer: 'new',
  client: '',
}

interface Walked extends SubmissionWalk {
  /** Of the page with the form. */
  path: string
  isKept: boolean
}

interface Submissions {
  typed: Typed
  walked: Walked | null
  /** Why it could not be walked. */
  problem: string | null
  isBusy: boolean
  type(changes: Partial<Typed>): void
  set(changes: Partial<Pick<Submissions, 'walked' | 'problem' | 'isBusy'>>): void
}

/** What is typed stays while other addresses are walked. */
const useSubmissions = create<Submissions>((set) => ({
  typed: EMPTY,
  walked: null,
  problem: null,
  isBusy: false,
  type: (changes) => set(({ typed }) => ({ typed: { ...typed, ...changes } })),
  set: (changes) => set(changes),
}))

export function useSubmission(path: string) {
  const { typed, walked, problem, isBusy, type, set } = useSubmissions()
  const client = useQueryClient()
  const send = async (keep: boolean) => {
    if (isBusy) return
    set({ isBusy: true, problem: null })
    const { name, email, site, text, parent, client: address, ...how } = typed
    const fields = { name, email, site, text, ...(parent === '' ? {} : { parent }) }
    const body = { path, fields, ...how, ...(address === '' ? {} : { client: address }), keep }
    try {
      const answer = await call('POST /api/walk/submission', { body })
      set({ walked: { ...answer, path, isKept: keep } })
      if (keep) await invalidateComments(client)
    } catch (error) {
      if (!(error instanceof ApiProblem)) throw error
      set({ walked: null, problem: errorText(error) })
    } finally {
      set({ isBusy: false })
    }
  }
  return {
    typed,
    type,
    /** Of this page's form. */
    walked: walked?.path === path ? walked : null,
    problem,
    isBusy,
    send: (keep: boolean) => void send(keep),
    reset: () => set({ walked: null, problem: null }),
  }
}
export type Submission = ReturnType<typeof useSubmission>
