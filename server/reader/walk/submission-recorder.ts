/** Records a walked comment form: its steps as sentences, its statements, and what was written. */
import { FORM_LIMIT } from '../request.ts'
import { resultOf, type SubmissionStep } from '../comments/submission-step.ts'
import type { WalkSubmission, WalkSubmissionStep } from '../../../contract/walk-record.ts'
import type { Subscribed } from '../../store/content/mail.ts'
import type { PoolPort, WritePort } from '../../publish/ports.ts'
import { observedPool, type StatementRun } from '../../store/statement-reports.ts'
import { plainStatement } from './query-runs.ts'

type Sentence = Omit<WalkSubmissionStep, 'code'>

const passed = (sentence: string): Sentence => ({ outcome: 'passed', sentence })
const noted = (sentence: string): Sentence => ({ outcome: 'noted', sentence })
const stopped = (sentence: string): Sentence => ({ outcome: 'stopped', sentence })
const check = (holds: boolean, yes: string, no: string) => (holds ? passed(yes) : stopped(no))

const many = (count: number, one: string) =>
  `${count.toLocaleString('en-GB')} ${one}${count === 1 ? '' : 's'}`

function duration(milliseconds: number): string {
  const seconds = Math.round(milliseconds / 1_000)
  if (seconds < 120) return many(seconds, 'second')
  const minutes = Math.round(seconds / 60)
  return minutes < 120 ? many(minutes, 'minute') : many(Math.round(minutes / 60), 'hour')
}

const SUBSCRIBED: Readonly<Record<Subscribed, Sentence>> = {
  confirmed: noted('The writer gets e-mails about replies. This browser has confirmed the address before.'),
  asked: noted('The writer gets an e-mail to confirm the address. Replies are not mailed until then.'),
  'too-many': stopped('The address already has three unanswered confirmation e-mails.'),
}

/** Describes a step of a submission. */
function describeStep(step: SubmissionStep): Sentence {
  switch (step.step) {
    case 'origin':
      return check(
        step.isOwn,
        'The form was sent from this blog.',
        `The form was sent from ${step.origin ?? 'an unknown origin'}, not from this blog.`,
      )
    case 'post':
      return passed(`The form is on ${step.page}.`)
    case 'form':
      if (step.form.ok) return passed(`The body has ${many(Object.keys(step.form.fields).length, 'field')}.`)
      return stopped(
        step.form.status === 413
          ? `The body is larger than ${FORM_LIMIT / 1024} kB.`
          : 'The body could not be read as a form.',
      )
    case 'values': {
      const errors = Object.entries(step.errors)
      if (errors.length > 0) return stopped(errors.map(([field, error]) => `${field}: ${error}`).join(' '))
      const changed = Object.entries(step.values).filter(
        ([field, value]) => value !== (step.typed[field] ?? '').replaceAll('\r\n', '\n'),
      )
      return passed(
        changed.length === 0
          ? 'All fields are valid.'
          : `All fields are valid. Normalised: ${changed.map(([field]) => field).join(', ')}.`,
      )
    }
    case 'open':
      return check(step.isOpen, 'The post accepts comments.', 'Comments on this post are closed.')
    case 'token':
      return step.open === null
        ? stopped('The form token is missing, was made for another reader, or has expired.')
        : passed(`The form token belongs to this reader; the form was open for ${duration(step.open)}.`)
    case 'own':
      return step.comment === null
        ? stopped('The comment was written in another browser, or can no longer be edited.')
        : passed(`Comment ${step.comment} was written in this browser.`)
    case 'sent-before':
      return step.comment === null
        ? passed('The form was not sent before.')
        : noted(`The form has already added comment ${step.comment}.`)
    case 'rate': {
      const { per, count, allowed, within } = step
      const whose = per === 'address' ? 'from this address' : 'on this post'
      const counted = `${many(Math.ceil(count), 'comment')} ${whose} within ${duration(within)}`
      return check(
        count <= allowed,
        `${counted}; ${allowed} are allowed.`,
        `${counted}; only ${allowed} are allowed.`,
      )
    }
    case 'parent':
      if (step.placed === undefined) return stopped(`Comment ${step.asked} is not shown under this post.`)
      return step.placed === step.asked
        ? passed(`It is a reply to comment ${step.asked}.`)
        : noted(
            step.placed === null
              ? `It is a reply to comment ${step.asked}, shown on the first level because replies are not nested.`
              : `It is a reply to comment ${step.asked}, shown under comment ${step.placed} because replies are not nested deeper.`,
          )
    case 'history':
      return noted(
        `The writer has ${many(step.shownBefore, 'shown comment')}${step.shownBefore === 3 ? ' or more' : ''}; ${step.repeated === 0 ? 'no other comment has the same text' : `${many(step.repeated, 'comment')} of the last month ${step.repeated === 1 ? 'has' : 'have'} the same text`}.`,
      )
    case 'score':
      return noted(
        step.score === null
          ? 'There is no spam score yet: it needs five decisions of each kind.'
          : `The spam score is ${step.score.toFixed(2)}.`,
      )
    case 'decision':
      return noted(
        step.state === 'shown'
          ? 'The comment is shown at once.'
          : `${step.state === 'spam' ? 'The comment is spam' : 'The comment waits for approval'}: ${step.reasons.map(describeReason).join('; ')}.`,
      )
    case 'replies':
      return SUBSCRIBED[step.subscribed]
    case 'written':
      return step.comment === null
        ? stopped('The row was not inserted, because the form has added a comment in the meantime.')
        : passed(
            `Comment ${step.comment} was written; ${step.dropped.length === 0 ? 'no copies depend on it' : `${many(step.dropped.length, 'copy').replace(/copys$/, 'copies')} dropped`}.`,
          )
  }
}

type Reason = (SubmissionStep & { step: 'decision' })['reasons'][number]

function describeReason(reason: Reason): string {
  switch (reason.code) {
    case 'after-approval':
      return 'all comments need approval'
    case 'unknown-writer':
      return 'the writer has no approved comment yet'
    case 'honeypot':
      return 'the hidden field was filled in'
    case 'links':
      return `${many(reason.links, 'link')}, ${reason.allowed} allowed`
    case 'blocked-word':
      return `it has the blocked word “${reason.word}”`
    case 'fast':
      return `it was sent after ${many(reason.seconds, 'second')}; people need at least ${reason.least}`
    case 'repeated':
      return `the same text was sent ${reason.times === 1 ? 'once' : `${reason.times} times`} before`
    case 'author-name':
      return `“${reason.name}” is the name of an author`
    case 'score':
      return `the spam score is ${reason.score.toFixed(2)}`
  }
}

export class SubmissionRecorder {
  readonly #steps: SubmissionStep[] = []
  readonly #statements: StatementRun[] = []

  get isEmpty(): boolean {
    return this.#steps.length === 0
  }

  /** The words that were scored. */
  get words(): readonly string[] {
    return this.#steps.find((one) => one.step === 'score')?.words ?? []
  }

  add(step: SubmissionStep): void {
    this.#steps.push(step)
  }

  observe({ pool, store }: PoolPort & WritePort): PoolPort & WritePort {
    const observe = (statement: StatementRun) => this.#statements.push(statement)
    return { pool: observedPool(pool, observe), store: store.observed(observe) }
  }

  /** @param status of the response */
  record(status: number): WalkSubmission {
    return {
      result: resultOf(this.#steps, status),
      steps: this.#steps.map((step) => ({ code: step.step, ...describeStep(step) })),
      words: [],
      statements: this.#statements.map(plainStatement),
      row: null,
      dropped: this.#steps.flatMap((step) => (step.step === 'written' ? step.dropped : [])),
    }
  }
}
