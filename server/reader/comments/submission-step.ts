/** The steps of a submission, as a walk records them. */
import type { Judgement } from '../../../core/comments/judge.ts'
import type { CommentErrors, CommentValues } from '../../../core/comments/submission.ts'
import type { DroppedCopy } from '../../../core/caching/store.ts'
import type { Subscribed } from '../../store/content/mail.ts'
import type { FormReading } from '../request.ts'

/** A form as it was sent. */
export type Fields = Readonly<Record<string, string | undefined>>

export type SubmissionStep =
  | { step: 'origin'; isOwn: boolean; origin: string | null }
  /** @param page the path of the post's page */
  | { step: 'post'; page: string }
  | { step: 'form'; form: FormReading }
  | { step: 'values'; typed: Fields; values: CommentValues; errors: CommentErrors }
  | { step: 'open'; isOpen: boolean }
  /** @param open for how long the form was open, in milliseconds; null if the token is not valid for this reader */
  | { step: 'token'; open: number | null }
  /** @param comment of the same browser, and still editable; null if it is not */
  | { step: 'own'; comment: number | null }
  | { step: 'sent-before'; comment: number | null }
  | { step: 'rate'; per: 'address' | 'post'; count: number; allowed: number; within: number }
  | { step: 'parent'; asked: number; placed: number | null | undefined }
  | { step: 'history'; shownBefore: number; repeated: number }
  | { step: 'score'; score: number | null; words: readonly string[] }
  | ({ step: 'decision' } & Judgement)
  /** The writer asked for e-mails about replies. */
  | { step: 'replies'; subscribed: Subscribed }
  | { step: 'written'; comment: number | null; dropped: readonly DroppedCopy[] }

/** Receives the steps. */
export type OnStep = (step: SubmissionStep) => void

/** What became of a form that was sent. */
export interface SubmissionResult {
  outcome: 'shown' | 'waiting' | 'spam' | 'deleted' | 'repeated' | 'preview' | 'edit' | 'rejected'
  /** The comment's id; null if none was written. */
  comment: number | null
  /** The codes of the reasons for which it waits or is spam, or the step at which it was rejected. */
  why: string[]
  /** The path of the page with the form; null if it is not known. */
  page: string | null
}

/** Sums the steps up. @param status of the response */
export function resultOf(steps: readonly SubmissionStep[], status: number): SubmissionResult {
  const post = steps.find((one) => one.step === 'post')
  return { ...outcomeOf(steps, status), page: post?.page ?? null }
}

function outcomeOf(steps: readonly SubmissionStep[], status: number): Omit<SubmissionResult, 'page'> {
  const last = <S extends SubmissionStep['step']>(step: S) =>
    steps.findLast((one): one is SubmissionStep & { step: S } => one.step === step)
  const written = last('written')
  const decision = last('decision')
  const earlier = last('sent-before')?.comment ?? last('own')?.comment ?? null
  if (written && decision)
    return {
      outcome: decision.state,
      comment: written.comment ?? earlier,
      why: decision.reasons.map((one) => one.code),
    }
  if (written) return { outcome: 'deleted', comment: written.comment, why: [] }
  if (status === 303) return { outcome: 'repeated', comment: earlier, why: [] }
  if (status === 200) return { outcome: last('own') ? 'edit' : 'preview', comment: null, why: [] }
  return { outcome: 'rejected', comment: null, why: [steps.at(-1)?.step ?? 'origin'] }
}
