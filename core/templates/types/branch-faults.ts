/** Faults that follow from the branch or the element that a value is in. */
import { expressionsOf, nodesOf, pathsOf, pathText, type NodeOf, type TemplateNode } from '../tree.ts'
import type { Scope } from './scope.ts'
import { EMPTIED, type Type } from './type.ts'

/** Returns the start of a path that is always empty because of the conditions around it; undefined if there is none. */
export function emptiedBy(path: string, { narrowed }: Scope): string | undefined {
  const steps = path.split('.')
  return steps
    .map((_, index) => steps.slice(0, index + 1).join('.'))
    .find((one) => narrowed.get(one) === EMPTIED)
}

const TIME_FILTERS = new Set(['date', 'ago'])
/** The start of a `<time>` whose `datetime` is written out. An output in it would be an “x” in the markup. */
const CONSTANT_TIME = /<time\b[^<>]*\bdatetime\s*=\s*["']?(\d{4}-[^"'<>x]*)["']?(?:\s[^<>]*)?>\s*$/

/**
 * Returns the `datetime` of the `<time>` that an output is the text of, if it is written out; undefined if it is not.
 * @param before the markup before the output
 */
export function constantTime(
  { expression: { filters } }: NodeOf<'output'>,
  type: Type,
  before: string,
): string | undefined {
  const isTime = type.kind === 'date' || filters.some((one) => TIME_FILTERS.has(one.name))
  return isTime ? CONSTANT_TIME.exec(before)?.[1] : undefined
}

/** Returns the texts of a choice between a singular and a plural that are the wrong way round; undefined for others. */
export function swappedPlural({
  branches,
  otherwise,
}: NodeOf<'choice'>): { one: string; several: string } | undefined {
  const [first, more] = branches
  if (!first || more) return undefined
  const { condition, wanted } = first
  const [, literal] = condition.operands
  const operator = condition.postfix?.at(-1)
  if (condition.filters.length > 0 || condition.postfix?.length !== 3) return undefined
  if (literal?.kind !== 'literal' || literal.value !== 1) return undefined
  const isForOne = operator === '==' ? wanted : operator === '!=' || operator === '>' ? !wanted : undefined
  if (isForOne === undefined) return undefined
  const [texts, others] = [textOf(first.body), textOf(otherwise)]
  if (texts === undefined || others === undefined) return undefined
  const [one, several] = isForOne ? [texts, others] : [others, texts]
  const isPlural = one === `${several}s` || (several.endsWith('y') && one === `${several.slice(0, -1)}ies`)
  return several !== '' && isPlural ? { one, several } : undefined
}

/** Returns the text of nodes that print nothing else. */
const textOf = (nodes: readonly TemplateNode[]): string | undefined =>
  nodes.every((one) => one.kind === 'text')
    ? nodes
        .map((one) => (one.kind === 'text' ? one.text : ''))
        .join('')
        .trim()
    : undefined

/** Returns how often each value is read by nodes: itself, a part of it, or the whole of which it is a part. */
export function timesRead(nodes: readonly TemplateNode[]): ReadonlyMap<string, number> {
  const own = new Map<string, number>()
  const parts = new Map<string, number>()
  for (const node of nodesOf(nodes))
    for (const path of expressionsOf(node).flatMap((one) => [...pathsOf(one)])) {
      const steps = pathText(path).split('.')
      for (const [index] of steps.entries()) {
        const start = steps.slice(0, index + 1).join('.')
        parts.set(start, (parts.get(start) ?? 0) + 1)
      }
      own.set(steps.join('.'), (own.get(steps.join('.')) ?? 0) + 1)
    }
  // What is passed on as a whole may be shown by a partial.
  return new Map(
    [...parts].map(([start, times]) => {
      const root = start.split('.', 1)[0] ?? start
      return [start, times + (root === start ? 0 : (own.get(root) ?? 0))]
    }),
  )
}

/** Returns whether nodes print nothing and set nothing, whatever the values are. */
const isIdle = (nodes: readonly TemplateNode[]): boolean =>
  nodes.every((one) =>
    one.kind === 'text'
      ? one.text.trim() === ''
      : one.kind === 'choice'
        ? isIdleChoice(one)
        : one.kind === 'loop' && isIdle(one.body) && isIdle(one.otherwise),
  )

/** Whether no branch of a choice prints or sets anything. */
const isIdleChoice = ({ branches, otherwise }: NodeOf<'choice'>): boolean =>
  branches.every((one) => isIdle(one.body)) && isIdle(otherwise)

/** Returns the part of a choice that prints and sets nothing; undefined if it has none. */
export function idleBranchOf(node: NodeOf<'choice'>): 'all' | 'last' | 'middle' | undefined {
  if (isIdleChoice(node)) return 'all'
  const last = node.branches.at(-1)
  if (isIdle(last?.body ?? []) && isIdle(node.otherwise)) return 'last'
  // The first branch may be empty, to ask for the opposite.
  return node.branches.slice(1).some((one) => one !== last && isIdle(one.body)) ||
    (node.branches.length > 1 && isIdle(last?.body ?? []))
    ? 'middle'
    : undefined
}

/** Returns the rows that a loop always leaves out at its start; 0 if it leaves out none, or some elsewhere in the list. */
export function rowsSkipped({ modifiers }: NodeOf<'loop'>): number {
  const [only] = modifiers.get('offset')?.operands ?? []
  return only?.kind === 'literal' && typeof only.value === 'number' ? only.value : 0
}

/** Returns the part of a loop that prints and sets nothing; undefined if it has none. */
export function idlePartOf({ body, otherwise }: NodeOf<'loop'>): 'body' | 'else' | undefined {
  if (isIdle(body)) return 'body'
  // Without `{% else %}`, there are no nodes.
  return otherwise.length > 0 && isIdle(otherwise) ? 'else' : undefined
}
