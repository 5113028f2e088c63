/** The texts of the screen for e-mail about comments. */
import type { MailItem } from '../../../../contract/mail.ts'
import { plural } from '../../../shared/words/format.ts'

export const words = {
  title: 'Mail',
  back: 'Comments',
  list: 'Mail, newest first',
  loading: 'Loading …',
  all: 'All',
  states: { waiting: 'Queued', sent: 'Sent', failed: 'Failed', dropped: 'Not needed' } satisfies Record<
    MailItem['state'],
    string
  >,
  kinds: {
    author: 'new comments, to the author',
    reply: 'a reply, to a subscriber',
    confirm: 'confirmation, to a reader',
  } satisfies Record<MailItem['kind'], string>,
  search: 'Search',
  searchHelp: 'Part of the recipient or the subject',
  standIn:
    'The built-in test server keeps all e-mails here and delivers none. Set SMTP_URL to send real e-mail.',
  real: (target: string) => `E-mail is sent through ${target}.`,
  from: 'From',
  to: 'To',
  subject: 'Subject',
  subscribers: (count: number) =>
    count === 0 ? 'No subscriptions to replies.' : `${plural(count, 'subscription')} to replies`,
  unknownSubject: '(no subject yet)',
  empty:
    'No e-mails yet. To be notified of comments, enter an address under Notifications in the comment rules.',
  noMatch: 'No e-mails match.',
  clear: 'Clear filters',
  cut: (count: number) => `Only the newest ${count} are listed. Search, or select a state, to find others.`,
  choose: 'Select an e-mail to read it.',
  queued: 'Queued',
  sent: 'Sent',
  ended: 'Ended',
  attempts: 'Attempts',
  next: 'Next attempt',
  problem: 'Reason',
  about: 'Comment',
  openComment: (id: number) => `Comment ${id}`,
  retry: 'Retry',
  retryAll: (count: number) => `Retry ${count}`,
  retried: (count: number) => `${plural(count, 'e-mail')} queued.`,
  hideHeaders: 'Hide headers',
  showHeaders: 'Show headers',
  text: 'Text as received',
  theText: 'the text',
  notKept: 'The text is not stored. Only the test server keeps it.',
  notSent: 'The text is composed when the e-mail is sent.',
}
