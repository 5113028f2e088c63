/** Decides what becomes of a comment: it is shown, it waits for approval, or it is spam; with every reason. */
import type { CommentState } from '../shapes/content-kinds.ts'
import type { RulesInForce } from './rules.ts'
import { foldedText } from './text.ts'

/** Why a comment is not simply shown. Stored with it. */
export type CommentReason =
  | { code: 'after-approval' | 'unknown-writer' | 'honeypot' }
  | { code: 'links'; links: number; allowed: number }
  | { code: 'blocked-word'; word: string }
  | { code: 'fast'; seconds: number; least: number }
  | { code: 'repeated'; times: number }
  | { code: 'author-name'; name: string }
  | { code: 'score'; score: number }

/** What is known of a comment and of its writer. */
export interface CommentSignals {
  name: string
  text: string
  site: string
  links: number
  /** Whether the field that people do not see was filled in. */
  isHoneypotFilled: boolean
  /** How long the form was open, in milliseconds; null if it is not known. */
  filledIn: number | null
  /** Comments of this writer that were approved. */
  shownBefore: number
  /** Comments with the same text, by anyone, not long ago. */
  repeated: number
  /** The names of those who write the blog. */
  authors: readonly string[]
  /** The probability of spam, from this blog's decisions; null while there are too few. */
  score: number | null
}

export interface Judgement {
  state: Extract<CommentState, 'shown' | 'waiting' | 'spam'>
  reasons: CommentReason[]
}

/** From this score on, a comment is spam; from the lower one on, it waits. */
const SPAM_SCORE = 0.95
const WAITING_SCORE = 0.6
/** From this number of equal comments on, one more is spam. */
const REPEATED_SPAM = 3

/** Reasons for which a comment is spam. For all others, it waits. */
const isSpam = (reason: CommentReason): boolean =>
  reason.code === 'honeypot' ||
  (reason.code === 'score' && reason.score >= SPAM_SCORE) ||
  (reason.code === 'repeated' && reason.times >= REPEATED_SPAM)

export function judge(signals: CommentSignals, rules: RulesInForce): Judgement {
  const reasons = [...suspicions(signals, rules)]
  if (rules.show === 'after-approval') reasons.push({ code: 'after-approval' })
  if (rules.show === 'known-writers' && signals.shownBefore === 0) reasons.push({ code: 'unknown-writer' })
  return { state: reasons.some(isSpam) ? 'spam' : reasons.length > 0 ? 'waiting' : 'shown', reasons }
}

function* suspicions(signals: CommentSignals, rules: RulesInForce): Generator<CommentReason> {
  const { name, text, site, links, filledIn, repeated, authors, score } = signals
  if (rules.honeypot && signals.isHoneypotFilled) yield { code: 'honeypot' }
  if (links > rules.links) yield { code: 'links', links, allowed: rules.links }
  const word = blockedWord(`${name}\n${site}\n${text}`, rules.blockedWords)
  if (word !== undefined) yield { code: 'blocked-word', word }
  if (filledIn !== null && filledIn < rules.fillTime)
    yield { code: 'fast', seconds: Math.floor(filledIn / 1_000), least: rules.fillTime / 1_000 }
  if (repeated > 0) yield { code: 'repeated', times: repeated }
  const author = authors.find((one) => foldedText(one) === foldedText(name))
  if (author !== undefined) yield { code: 'author-name', name: author }
  if (score !== null && score >= WAITING_SCORE) yield { code: 'score', score: Math.round(score * 100) / 100 }
}

/** Returns the first blocked word that a text has: whole words, whatever their case. */
function blockedWord(text: string, blocked: readonly string[]): string | undefined {
  if (blocked.length === 0) return undefined
  const words = (one: string) =>
    ` ${(
      one
        .normalize('NFKC')
        .toLowerCase()
        .match(/[\p{L}\p{M}\p{N}]+/gu) ?? []
    ).join(' ')} `
  const searched = words(text)
  return blocked.find((one) => words(one).trim() !== '' && searched.includes(words(one)))
}
