/** The texts of e-mails about comments. They are plain text, so nothing in a comment is interpreted by a mail program. */
import type { MessageName, Say } from '../messages/say.ts'

/** A comment as e-mails quote it. */
export interface MailedComment {
  name: string
  text: string
  /** The title of its post. */
  title: string
  /** The address of the comment: on the blog for readers, in the workbench for the author. */
  address: string
}

export interface MailText {
  subject: string
  text: string
}

/** The maximum number of characters of a comment that an e-mail to the author quotes. */
const START = 600
/** The maximum number of comments that an e-mail to the author quotes. */
export const MAILED_COMMENTS = 20
/** RFC 5322 §2.1.1 recommends lines of at most 78 characters; a longer subject is folded, and few programs show all of it. */
const LONGEST_SUBJECT = 150

const cut = (text: string, length: number): string => {
  const characters = [...text]
  return characters.length <= length ? text : `${characters.slice(0, length - 1).join('')}…`
}

/** Marks each line of a text as a quotation (RFC 3676 §4.5). */
const quoted = (text: string): string =>
  text
    .split('\n')
    .map((line) => (line === '' ? '>' : `> ${line}`))
    .join('\n')

/** Returns a signature (RFC 3676 §4.3) that says why the e-mail was sent. */
const signature = (text: string): string => `-- \n${text}\n`

/** Keeps a title or a name on one line, so that typed line breaks cannot add lines. */
const line = (text: string): string => text.replace(/\s+/g, ' ').trim()

export interface MailWords {
  say: Say
  /** The title of the blog. */
  blog: string
}

const subjectOf = ({ say, blog }: MailWords, name: MessageName, values: Record<string, string | number>) =>
  cut(`[${line(blog)}] ${say(name, values)}`, LONGEST_SUBJECT)

/**
 * Returns the e-mail to the author about new comments.
 * @param comments the first of them, at most `MAILED_COMMENTS`
 * @param queue the address where they are moderated
 */
export function authorMail(
  words: MailWords,
  {
    comments,
    total,
    waiting,
    queue,
  }: { comments: MailedComment[]; total: number; waiting: number; queue: string },
): MailText {
  const { say } = words
  const parts = comments.map(({ name, text, title, address }) =>
    [`${line(name)} · ${line(title)}`, quoted(cut(text, START)), address].join('\n'),
  )
  const rest = total - comments.length
  if (rest > 0) parts.push(say('mail-author-more', { count: rest }))
  parts.push(`${say('mail-author-waiting', { count: waiting })}\n${queue}`)
  return {
    subject: subjectOf(words, total === 1 ? 'mail-author-one' : 'mail-author-many', {
      count: total,
      title: line(comments[0]?.title ?? ''),
    }),
    text: `${parts.join('\n\n')}\n`,
  }
}

/** Returns the e-mail to a reader about a reply. @param stop the address for unsubscribing */
export function replyMail(
  words: MailWords,
  { reply, stop }: { reply: MailedComment; stop: string },
): MailText {
  const { say } = words
  const [name, title] = [line(reply.name), line(reply.title)]
  return {
    subject: subjectOf(words, 'mail-reply-subject', { name, title }),
    text: [
      say('mail-reply-text', { name, title }),
      quoted(reply.text),
      reply.address,
      signature(`${say('mail-reply-why', { title })}\n${say('mail-stop')} ${stop}`),
    ].join('\n\n'),
  }
}

/** Returns the e-mail that asks a reader to confirm the subscription to replies. @param link the address for confirming it */
export function confirmMail(words: MailWords, { title, link }: { title: string; link: string }): MailText {
  const { say, blog } = words
  return {
    subject: subjectOf(words, 'mail-confirm-subject', { title: line(title) }),
    text: [
      say('mail-confirm-text', { title: line(title), blog: line(blog) }),
      link,
      signature(say('mail-confirm-why')),
    ].join('\n\n'),
  }
}
