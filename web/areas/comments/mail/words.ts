/** The texts of the mails about comments. */
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
    'Mail goes to the test server that ships with Esquina: it is kept here and not passed on. Set SMTP_URL to send real mail.',
  real: (target: string) => `Mail is sent through ${target}.`,
  from: 'From',
  to: 'To',
  subject: 'Subject',
  subscribers: (count: number) =>
    count === 0 ? 'No subscriptions to replies.' : `${plural(count, 'subscription')} to replies`,
  unknownSubject: '(no subject yet)',
  empty: 'No mail yet. The author gets mail about comments once the rules have an address for it.',
  noMatch: 'No mail matches.',
  clear: 'Clear filters',
  cut: (count: number) => `Only the newest ${count} are listed. Search, or choose a state, to find others.`,
  choose: 'Select an e-mail to read it.',
  queued: 'Queued',
  sent: 'Sent',
  ended: 'Ended',
  attempts: 'Attempts',
  next: 'Next attempt',
  problem: 'Reason',
  about: 'Comment',
  openComment: (id: number) => `Comment ${id}`,
  retry: 'Send again',
  retryAll: (count: number) => `Send ${count} again`,
  retried: (count: number) => `${plural(count, 'e-mail')} queued again.`,
  hideHeaders: 'Hide headers',
  showHeaders: 'Show headers',
  text: 'Text as received',
  theText: 'the text',
  notKept: 'The text of mail is not stored. Only the test server keeps what it receives.',
  notSent: 'The text is written when the mail is sent.',
}
