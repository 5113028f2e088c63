/** The differences of two walks: sentences by stage, and the changed lines of the page. */
import type { WalkFragment, WalkRecord } from '../../../contract/walk-record.ts'
import { lineChanges, type LineChange } from '../../shared/editor/line-changes.ts'
import type { StageName } from '../../shared/frame/attention.ts'
import { rowsOf } from '../../shared/words/format.ts'
import { words } from './words.ts'

const text = words.differences

export interface Difference {
  stage: StageName
  sentence: string
}

/** Returns the differences of two walks. Those of the response come first. */
export function compareWalks(before: WalkRecord, after: WalkRecord): Difference[] {
  const found: Difference[] = []
  const add = (stage: StageName, sentence: string) => found.push({ stage, sentence })
  if (before.target !== after.target) add('route', text.address(before.target))
  if (before.route.name !== after.route.name) add('route', text.route(after.route.name, before.route.name))
  else if (before.route.pattern !== after.route.pattern) add('route', text.pattern(before.route.pattern))
  for (const run of after.queries.runs) {
    const old = before.queries.runs.find((one) => one.data === run.data)
    if (!old) {
      add('queries', text.newQuery(run.data))
      continue
    }
    if (old.sentence !== run.sentence) add('queries', text.sentence(run.data, run.sentence, old.sentence))
    const bothRan = old.outcome !== 'not-run' && run.outcome !== 'not-run'
    if (bothRan && (old.rows !== run.rows || old.total !== run.total))
      add('queries', text.rows(run.data, rowsOf(run), rowsOf(old)))
  }
  for (const old of before.queries.runs)
    if (!after.queries.runs.some((run) => run.data === old.data)) add('queries', text.goneQuery(old.data))
  if (before.templates.page !== after.templates.page)
    add('templates', text.template(after.templates.page, before.templates.page))
  const stored = storedOf(after.fragments)
  const storedBefore = storedOf(before.fragments)
  if (stored !== storedBefore) add('fragments', text.fragments(stored, storedBefore))
  if (before.response.status !== after.response.status)
    add('response', text.status(after.response.status, before.response.status))
  const { added, removed } = countChanged(before.response.body, after.response.body)
  if (added + removed > 0) add('response', text.lines(added, removed))
  return [
    ...found.filter((one) => one.stage === 'response'),
    ...found.filter((one) => one.stage !== 'response'),
  ]
}

const storedOf = (fragments: readonly WalkFragment[]): string =>
  words.journey.stored(fragments.filter((one) => one.outcome === 'hit').length, fragments.length)

/** Removes what differs in every response: the token of a form, by its shape. */
const withoutNoise = (html: string) =>
  html.replace(/\b[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}(?:\.[\w-]+){3}/g, '…')

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
