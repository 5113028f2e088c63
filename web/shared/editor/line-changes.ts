/** Compares two texts line by line. */
import { diffLines } from 'diff'

export interface LineChange {
  kind: 'same' | 'added' | 'removed'
  lines: string[]
}

export const lineChanges = (before: string, after: string): LineChange[] =>
  diffLines(before, after).map(({ added, removed, value }) => ({
    kind: added ? 'added' : removed ? 'removed' : 'same',
    lines: value.replace(/\n$/, '').split('\n'),
  }))
