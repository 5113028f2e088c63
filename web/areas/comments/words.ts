/** The texts of the Comments area. */
import type { CommentCounts, CommentDetail, CommentReasonItem } from '../../../contract/comments.ts'
import { plural } from '../../shared/words/format.ts'

type State = keyof CommentCounts

const comments = (count: number) => plural(count, 'comment')

/** E.g. “3 comments were shown.” */
const were = (count: number, what: string) => `${comments(count)} ${count === 1 ? 'was' : 'were'} ${what}.`

export const words = {
  title: 'Comments',
  list: 'Comments, newest first',
  loading: 'Loading comments …',
  states: { waiting: 'Waiting', shown: 'Shown', spam: 'Spam', deleted: 'Deleted' } satisfies Record<
    State,
    string
  >,
  rules: 'Rules',
  mail: 'Mail',
  menu: {
    open: 'More',
    import: 'Import JSON or CSV…',
    json: 'Export all as JSON',
    csv: 'Export all as CSV',
    file: 'File of comments',
    imported: (imported: number, unchanged: number) =>
      `${comments(imported)} imported${unchanged === 0 ? '' : `; ${unchanged.toLocaleString('en-GB')} were here already`}.`,
  },
  search: 'Search',
  searchHelp: 'Part of the name, the e-mail address, the text or the post’s title, or a network address',
  anyPost: 'Any post',
  post: 'Post',
  ofWriter: 'Comments by one writer.',
  clear: 'Clear filters',
  empty: {
    waiting: 'No comments are waiting. New ones appear here automatically.',
    shown: 'No comments are shown yet.',
    spam: 'No spam.',
    deleted: 'No deleted comments. They can be restored for 30 days.',
  } satisfies Record<State, string>,
  noMatch: 'No comments match.',
  select: (name: string) => `Select the comment by ${name}`,
  selected: (count: number) => `${comments(count)} selected`,
  deselect: 'Deselect',
  selectAll: 'Select all',
  more: 'Show earlier comments',
  cut: (count: number) =>
    `Only the newest ${count.toLocaleString('en-GB')} are listed. Search, or choose a post, to find others.`,
  count: (shown: number, total: number) => `${shown} of ${total.toLocaleString('en-GB')}`,
  keys: '↑ ↓ move · Space selects · Ctrl Z undoes',
  byAuthor: 'author',
  hidden: 'hidden with the comment above it',
  shownBefore: (count: number) => (count >= 99 ? '99+ shown before' : `${count} shown before`),
  choose: 'Select a comment to see it in its thread.',
  page: 'The post as readers would see it',
  ifShown: 'the thread, if this comment is shown',
  asShown: 'the thread as readers see it',
  noRoute: 'No route shows this post.',
  edit: 'Edit',
  reply: 'Reply',
  show: 'Show',
  spam: 'Spam',
  delete: 'Delete',
  wait: 'Hold',
  send: 'Send reply',
  sendAndShow: 'Send reply and show',
  replyTo: (name: string, author: string) => `Reply to ${name} as ${author}`,
  replyText: 'Reply',
  name: 'Name',
  text: 'Text',
  save: 'Save',
  done: {
    shown: (count: number) => were(count, 'shown'),
    spam: (count: number) => were(count, 'marked as spam'),
    deleted: (count: number) => were(count, 'deleted'),
    waiting: (count: number) => were(count, 'moved back to waiting'),
  } satisfies Record<State, (count: number) => string>,
  replied: 'The reply was sent.',
  edited: 'The comment was changed.',
  why: {
    waiting: 'Why it waits',
    spam: 'Why it is spam',
    shown: 'Signals',
    deleted: 'Signals',
  } satisfies Record<State, string>,
  noReasons: 'Nothing unusual.',
  decided: 'A moderator decided.',
  /** A reason as a sentence. */
  reason: (one: CommentReasonItem): string => {
    switch (one.code) {
      case 'after-approval':
        return 'The rules hold all comments for approval.'
      case 'unknown-writer':
        return 'First comment by this writer: held for approval.'
      case 'honeypot':
        return 'The hidden field was filled in, which only programs do.'
      case 'links':
        return `${plural(one.links ?? 0, 'link')}, and the rules allow ${one.allowed ?? 0}.`
      case 'blocked-word':
        return `Contains the blocked word “${one.word ?? ''}”.`
      case 'fast':
        return `Sent after ${one.seconds ?? 0} s; the rules expect at least ${one.least ?? 0} s.`
      case 'repeated':
        return `The same text was sent ${plural(one.times ?? 0, 'time')} before.`
      case 'author-name':
        return `Uses the name of the author ${one.name ?? ''}.`
      case 'score':
        return `Spam score of ${(one.score ?? 0).toFixed(2)} when it was sent.`
      default:
        return one.code
    }
  },
  /** A reason as a label of one to three words. */
  mark: (one: CommentReasonItem): string => {
    switch (one.code) {
      case 'links':
        return `${plural(one.links ?? 0, 'link')}, ${one.allowed ?? 0} allowed`
      case 'unknown-writer':
        return 'first comment'
      case 'blocked-word':
        return 'blocked word'
      case 'author-name':
        return 'author’s name'
      case 'fast':
        return 'sent too fast'
      case 'after-approval':
        return 'approval'
      default:
        return one.code
    }
  },
  scored: (score: number) => `spam ${score.toFixed(2)}`,
  score: (score: number) => `Spam score ${score.toFixed(2)}`,
  scoreOf: (decisions: number) => `, from ${plural(decisions, 'decision')} on this blog:`,
  noScore: 'No spam score yet: it needs at least five shown comments and five marked as spam.',
  weights: 'Words with the most weight',
  writer: 'The writer',
  email: 'E-mail',
  site: 'Website',
  before: 'Before',
  filledIn: 'Filled in',
  filledInSeconds: (seconds: number) => `in ${plural(seconds, 'second')}`,
  sent: 'Sent',
  changed: 'Changed',
  replyingTo: 'Reply to',
  nothingBefore: 'nothing',
  beforeOf: ({ shown, waiting, spam, deleted }: CommentDetail['writer']): string =>
    [
      ...(shown > 0 ? [`${shown} shown`] : []),
      ...(waiting > 0 ? [`${waiting} waiting`] : []),
      ...(spam > 0 ? [`${spam} spam`] : []),
      ...(deleted > 0 ? [`${deleted} deleted`] : []),
    ].join(', '),
  knownBy: {
    browser: 'Counts comments from the same browser or with the same e-mail address.',
    email: 'Counts comments with the same e-mail address.',
    nothing: 'Only the name of this writer is known, and names are not verified.',
  } satisfies Record<CommentDetail['writer']['known'], string>,
  everything: 'All comments by this writer',
  erase: 'Erase writer…',
  eraseTitle: 'Erase this writer?',
  eraseText: (count: number) =>
    `This permanently deletes ${comments(count)}, the e-mail address and all traces in the change log. Comments with replies by others are emptied, so that the replies stay.`,
  eraseNow: 'Erase',
  erased: (deleted: number, emptied: number) =>
    `${comments(deleted)} ${deleted === 1 ? 'was' : 'were'} erased.${emptied > 0 ? ` ${emptied} with replies ${emptied === 1 ? 'was' : 'were'} emptied.` : ''}`,
  history: 'Edit history',
  inForce: 'Rules in force',
  changeRules: 'Change rules',
}
