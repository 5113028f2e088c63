/** The texts of the comment rules. */
import type { RulesInForce } from '../../../core/comments/rules.ts'
import { formatSpan, plural } from '../../shared/words/format.ts'

export const words = {
  title: 'Comment rules',
  back: 'Comments',
  loading: 'Loading …',
  save: 'Save',
  saved: 'The comment rules were saved.',
  reset: 'Reset',
  yaml: 'Edit as YAML',
  form: 'The form as readers see it',
  sent: 'submitted empty',
  noForm: 'No route accepts comments, or no published post is open for comments.',
  ownRules: (routes: readonly string[]) =>
    `${routes.join(', ')} ${routes.length === 1 ? 'changes' : 'change'} some rules in routes.yaml.`,
  who: 'Who can comment',
  when: 'When comments are shown',
  how: 'How comments are listed',
  limits: 'Limits',
  notify: 'Notifications by e-mail',
  notifyAuthor: 'Notify the author at',
  nobody: 'nobody',
  about: 'About',
  notices: { waiting: 'Comments awaiting approval', all: 'All comments', none: 'Nothing' },
  replies: 'Offer replies by e-mail',
  noAddress: 'The form needs an e-mail field for this.',
  sender: 'Sender',
  ownHost: 'no-reply@ the blog’s host',
  accept: 'Accept comments',
  closesAfter: 'Close after',
  fields: { name: 'Name', email: 'E-mail', site: 'Website' },
  use: { required: 'Required', optional: 'Optional', off: 'Not asked' },
  show: {
    'at-once': 'At once',
    'known-writers': 'At once for known writers, others after approval',
    'after-approval': 'After approval',
  },
  editableFor: 'Writers can edit for',
  order: { 'oldest-first': 'Oldest first', 'newest-first': 'Newest first' },
  orderLabel: 'Order',
  depth: 'Reply depth',
  pageSize: 'Comments per page',
  nameLength: 'Longest name',
  textLength: 'Longest comment',
  links: 'Links allowed',
  fillTime: 'Hold if sent within',
  honeypot: 'Hidden field for bots',
  blockedWords: 'Blocked words',
  perAddress: 'Comments per address',
  perPost: 'Comments per post',
  within: 'Counted over',
  never: 'never',
  none: 'none',
  spans: {
    '0s': 'not at all',
    '2s': '2 seconds',
    '3s': '3 seconds',
    '5s': '5 seconds',
    '10s': '10 seconds',
    '1m': '1 minute',
    '5m': '5 minutes',
    '10m': '10 minutes',
    '15m': '15 minutes',
    '30m': '30 minutes',
    '1h': '1 hour',
    '1d': '1 day',
    '7d': '7 days',
    '14d': '14 days',
    '30d': '30 days',
    '60d': '60 days',
    '90d': '90 days',
    '180d': '180 days',
    '365d': '365 days',
  } as Readonly<Record<string, string>>,
}

const SHORT: Readonly<Record<RulesInForce['show'], string>> = {
  'at-once': 'Comments are shown at once',
  'known-writers': 'Known writers at once, others after approval',
  'after-approval': 'All comments after approval',
}

/** The rules in a few short sentences. */
export function ruleSentences(rules: RulesInForce): string[] {
  if (!rules.accept) return ['No comments are accepted']
  const { links, textLength, depth, rate, closesAfter } = rules
  return [
    SHORT[rules.show],
    `${plural(links, 'link')} · ${textLength.toLocaleString('en-GB')} characters · ${depth === 0 ? 'no replies' : `replies ${depth} deep`}`,
    `${rate.perAddress.toLocaleString('en-GB')} in ${formatSpan(rate.within)} from one address`,
    ...(closesAfter === null ? [] : [`Closed ${formatSpan(closesAfter)} after publication`]),
  ]
}
