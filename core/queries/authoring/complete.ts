/** Completion in a query's YAML: keys, names of the source, and operators that fit a field. */
import { COUNTED, PAGED_BY, PAST_THE_END, SOURCES, type SourceName } from '../../shapes/schemas.ts'
import {
  conditionChoices,
  countByChoices,
  emptyChoices,
  namedChoices,
  operatorChoices,
  orderChoices,
  sourceChoices,
  takeChoices,
  withChoices,
  type Choice,
} from './choices.ts'

export interface Completion {
  /** Offset at which the completed word starts. */
  from: number
  choices: Choice[]
}

const KEYS: readonly Choice[] = [
  { value: 'from', detail: 'source of the rows' },
  { value: 'with', detail: 'related rows and counts' },
  { value: 'where', detail: 'conditions' },
  { value: 'count-by', detail: 'count rows instead of returning them' },
  { value: 'order', detail: 'sort order' },
  { value: 'take', detail: 'number of rows' },
  { value: 'pages', detail: 'size and kind of pages' },
  { value: 'empty', detail: 'what happens without rows' },
]
const CONDITION_KEYS: readonly Choice[] = [
  { value: 'field', detail: 'field to compare' },
  { value: 'is', detail: 'operator' },
  { value: 'to', detail: 'a value or a parameter such as ":category"' },
  { value: 'when', detail: '“given”: skipped without its parameter' },
]
const PAGE_KEYS: readonly Choice[] = [
  { value: 'size', detail: 'rows per page' },
  { value: 'by', detail: 'number or cursor' },
  { value: 'parameter', detail: 'query-string parameter' },
  { value: 'past-the-end', detail: 'beyond the last page' },
  { value: 'count', detail: 'exact or estimated' },
]
const plain = (values: readonly string[]): Choice[] => values.map((value) => ({ value, detail: '' }))

/**
 * Returns the completions at a position.
 * @param at offset of the cursor in the text
 */
export function completeQuery(text: string, at: number): Completion | undefined {
  const before = text.slice(0, at)
  const lineStart = before.lastIndexOf('\n') + 1
  const line = before.slice(lineStart)
  if (/(^|\s)#/.test(line)) return undefined
  const word = /[a-zA-Z][a-zA-Z.-]*$|$/.exec(line)?.[0] ?? ''
  const from = at - word.length
  const lead = line.slice(0, line.length - word.length)
  const offer = (choices: readonly Choice[]) =>
    choices.length === 0 ? undefined : { from, choices: [...choices] }
  if (/^$/.test(lead)) return offer(KEYS)
  const source = sourceOf(text)
  const key = keyAt(before, lineStart)
  if (key === 'from') return offer(sourceChoices())
  if (key === 'take') return offer(takeChoices())
  if (key === 'empty') return offer(emptyChoices())
  if (key === 'pages') return offer(pageChoices(lead))
  if (!source) return undefined
  if (key === 'with') return offer(withChoices(source))
  if (key === 'order') return offer(orderChoices(source))
  if (key === 'count-by') return offer(countByChoices(source))
  if (key === 'where') return offer(whereChoices(source, lead, line))
  return undefined
}

const sourceOf = (text: string): SourceName | undefined => {
  const name = /^from:\s*([a-z]+)/m.exec(text)?.[1]
  return SOURCES.find((one) => one === name)
}

/** Returns the top-level key of the position: on its line, or on the last line above that starts with a key. */
function keyAt(before: string, lineStart: number): string | undefined {
  const lines = [
    before.slice(lineStart),
    ...before
      .slice(0, Math.max(0, lineStart - 1))
      .split('\n')
      .reverse(),
  ]
  for (const line of lines) {
    const found = /^([a-z][a-z-]*):/.exec(line)
    if (found) return found[1]
  }
  return undefined
}

function pageChoices(lead: string): Choice[] {
  if (/\bby:\s*$/.test(lead)) return plain(PAGED_BY)
  if (/past-the-end:\s*$/.test(lead)) return plain(PAST_THE_END)
  if (/\bcount:\s*$/.test(lead)) return plain(COUNTED)
  return /[{,]\s*$|^\s+$/.test(lead) ? [...PAGE_KEYS] : []
}

function whereChoices(source: SourceName, lead: string, line: string): Choice[] {
  // Inside open braces, or on a line of a condition that spans several lines.
  const open = lead.slice(lead.lastIndexOf('{') + 1)
  const isInside = lead.lastIndexOf('{') > lead.lastIndexOf('}')
  if (/\bfield:\s*$/.test(open)) return conditionChoices(source)
  if (/\bis:\s*$/.test(open)) {
    const field = /\bfield:\s*([a-zA-Z.]+)/.exec(isInside ? open : line)?.[1]
    return operatorChoices(source, field ?? '')
  }
  if (/\bwhen:\s*$/.test(open)) return [{ value: 'given', detail: 'skipped without its parameter' }]
  if (isInside) return /^\s*$|,\s*$/.test(open) ? [...CONDITION_KEYS, ...GROUPS] : []
  if (/[[,-]\s*$/.test(lead)) return namedChoices(source)
  return []
}

const GROUPS: readonly Choice[] = [
  { value: 'any', detail: 'at least one condition holds' },
  { value: 'all', detail: 'every condition holds' },
  { value: 'not', detail: 'the condition does not hold' },
]
