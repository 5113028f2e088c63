/** What is different between two walks of an address: sentences by stage, and the changed lines of the page. */
import type { WalkFragment, WalkRecord } from '../../../contract/operations.ts'
import { lineChanges, type LineChange } from '../../shared/editor/line-changes.ts'
import type { StageName } from '../../shared/frame/attention.ts'
import { plural, rowsOf } from '../../shared/words/words.ts'

export interface Difference {
  stage: StageName
  sentence: string
}

export function compareWalks(before: WalkRecord, after: WalkRecord): Difference[] {
  const found: Difference[] = []
  const note = (stage: StageName, sentence: string) => found.push({ stage, sentence })
  if (before.target !== after.target) note('route', `another address: ${before.target} before`)
  if (before.route.name !== after.route.name)
    note(
      'route',
      `answered by ${after.route.name ?? 'no route'}, before by ${before.route.name ?? 'no route'}`,
    )
  else if (before.route.pattern !== after.route.pattern)
    note('route', `the pattern was ${before.route.pattern ?? 'none'}`)
  for (const run of after.queries.runs) {
    const old = before.queries.runs.find((one) => one.data === run.data)
    if (!old) {
      note('queries', `${run.data} is new`)
      continue
    }
    if (old.sentence !== run.sentence)
      note('queries', `${run.data}: ${run.sentence}; before: ${old.sentence}`)
    if (
      old.outcome !== 'not-run' &&
      run.outcome !== 'not-run' &&
      (old.rows !== run.rows || old.total !== run.total)
    ) {
      note('queries', `${run.data}: ${rowsOf(run)}, before ${rowsOf(old)}`)
    }
  }
  for (const old of before.queries.runs) {
    if (!after.queries.runs.some((run) => run.data === old.data)) note('queries', `${old.data} is gone`)
  }
  if (before.templates.page !== after.templates.page)
    note(
      'templates',
      `rendered by ${after.templates.page ?? 'nothing'}, before by ${before.templates.page ?? 'nothing'}`,
    )
  const hits = hitsOf(after.fragments)
  const oldHits = hitsOf(before.fragments)
  if (hits !== oldHits) note('fragments', `${hits}, before ${oldHits}`)
  if (before.response.status !== after.response.status)
    note('response', `status ${after.response.status}, before ${before.response.status}`)
  const { added, removed } = countChanged(before.response.body, after.response.body)
  if (added + removed > 0) note('response', `${plural(added, 'line')} added to the page, ${removed} removed`)
  // The page itself first: that is what one looks for.
  return [
    ...found.filter((one) => one.stage === 'response'),
    ...found.filter((one) => one.stage !== 'response'),
  ]
}

function hitsOf(fragments: readonly WalkFragment[]): string {
  return `${fragments.filter((one) => one.outcome === 'hit').length} of ${plural(fragments.length, 'fragment')} from the store`
}

/** Values that differ in every response and say nothing: the form's one-time number. */
const withoutNoise = (html: string) => html.replace(/(name="once" value=")[0-9a-f-]{36}"/g, '$1…"')

export const changedLines = (before: string, after: string): LineChange[] =>
  lineChanges(withoutNoise(before), withoutNoise(after))

function countChanged(before: string, after: string): { added: number; removed: number } {
  const changes = changedLines(before, after)
  const count = (kind: LineChange['kind']) =>
    changes
      .filter((one) => one.kind === kind)
      .reduce((sum, one) => sum + one.lines.filter((line) => line.trim() !== '').length, 0)
  return { added: count('added'), removed: count('removed') }
}
