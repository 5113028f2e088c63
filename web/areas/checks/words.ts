/** The texts of the Checks area. */
import { plural } from '../../shared/words/format.ts'

export const words = {
  title: 'Checks',
  loading: 'Loading the checks …',
  list: 'Findings',
  run: 'Run checks',
  running: (done: number, total: number) => `running, ${done} of ${total} …`,
  notRun: 'not run yet',
  ran: (count: number, at: string, time: string) => `${plural(count, 'check')} run at ${at} in ${time}`,
  findings: (count: number) => plural(count, 'finding'),
  dismissedCount: (count: number) => `${count} dismissed`,
  groups: {
    now: 'Readers are affected now',
    possibly: 'Readers may be affected later',
    failed: 'Failed to run',
    dismissed: 'Dismissed',
    proven: 'Proven',
  },
  nothingProven: 'Nothing is proven yet.',
  notRunYet: 'The checks have not run yet.',
  stillRunning: 'The checks are running. Their findings will be listed on the left.',
  noFindings: 'No findings. The checks run after each save; what they have proven is listed on the left.',

  gone: 'This finding no longer exists. It was fixed, or what it was about has changed.',

  finding: {
    label: 'Finding',
    witness: 'Witness',
    expected: 'expected',
    cause: 'Cause',
    others: 'Others',
    more: (count: number) => `Show ${count} more`,
    fix: 'Fix',
    fixes: 'Possible fixes',
    noFix: 'There is no automatic fix. Edit the document named under Cause.',
    afterwards: (text: string) => `Afterwards: ${text}`,
    apply: 'Apply',
    walk: 'Walk the witness',
    walkIt: 'Walk this address',
    why: 'Why this matters',
    reopen: 'Reopen',
    dismissWithReason: 'Dismiss…',
    dismiss: 'Dismiss',
    reason: 'Reason',
    dismissedFor: (reason: string, date: string) => `Dismissed on ${date}: “${reason}”`,
  },

  rule: {
    label: 'Check',
    finds: 'Finds',
    why: 'Why',
    result: 'Result',
    proven: (sentence: string, count: string) => `${sentence}: ${count}.`,
    notProven: 'Not proven: there was nothing to check, or there are findings.',
  },
} as const
