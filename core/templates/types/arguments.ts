/** Finds arguments of partials that are of the wrong kind, and those that were forgotten. */
import type { FirstSteps } from '../names.ts'
import { nodesOf, pathsOf, type Expression, type TemplateNode } from '../tree.ts'
import type { Type } from './type.ts'

/** Returns the fields that a partial reads of an argument that has none of them; undefined if it has one. */
export function fieldsLacking(type: Type, steps: FirstSteps): string[] | undefined {
  if (type.kind !== 'row' || steps === 'all' || steps.size === 0) return undefined
  const known = [...steps].some((one) => one === 'size' || type.fields.has(one) || type.absent.has(one))
  return known ? undefined : [...steps]
}

const reads = (expression: Expression, name: string): boolean =>
  [...pathsOf(expression)].some(({ root }) => root === name)

/** Whether a template asks for a name before it uses it: in a condition, or with a default. */
export function asksFor(nodes: readonly TemplateNode[], name: string): boolean {
  for (const node of nodesOf(nodes)) {
    if (node.kind === 'choice' && node.branches.some((one) => reads(one.condition, name))) return true
    if (node.kind === 'case' && reads(node.subject, name)) return true
    if (node.kind !== 'output' && node.kind !== 'assign') continue
    const { filters, postfix } = node.expression
    if ((postfix || filters.some((one) => one.name === 'default')) && reads(node.expression, name))
      return true
  }
  return false
}
