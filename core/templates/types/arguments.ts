/** Finds arguments of partials that are of the wrong kind, and those that were forgotten. */
import type { FindTree, FirstSteps } from '../names.ts'
import { nodesOf, pathsOf, type Expression, type NodeOf, type TemplateNode } from '../tree.ts'
import type { ExpressionFault } from './faults.ts'
import { withArticle, type Type } from './type.ts'

/**
 * Returns the arguments that a partial does not read, and those without any of the fields that it reads.
 * @param given the types of the arguments @param read the names that the partial reads
 */
export function givenFaults(
  node: NodeOf<'render'>,
  partial: string,
  given: ReadonlyMap<string, Type>,
  read: ReadonlyMap<string, FirstSteps>,
): ExpressionFault[] {
  return node.given.flatMap(({ name, expression: { place }, text }): ExpressionFault[] => {
    const steps = read.get(name)
    if (!steps) {
      const fault = {
        message: `${partial} does not read “${name}”.`,
        hint: 'Remove the argument, or read it in the partial.',
        names: [...read.keys()],
      }
      return [{ kind: 'argument-unread', place, subject: name, fault }]
    }
    const type = given.get(name)
    const lacking = type && fieldsLacking(type, steps)
    if (type?.kind !== 'row' || !lacking) return []
    const fault = {
      message: `${partial} reads ${lacking.map((one) => `“${name}.${one}”`).join(', ')}, and ${withArticle(type.name)} has none of them.`,
      hint: 'Pass the value that the partial is made for.',
    }
    return [{ kind: 'argument-wrong', place, subject: text, fault }]
  })
}

/** Returns the arguments that were forgotten. @param names what the partial reads, is not given, and the template has */
export function missingFaults(
  { place }: NodeOf<'render'>,
  partial: string,
  names: readonly string[],
  find: FindTree,
): ExpressionFault[] {
  // It may be optional, or read by a partial in the partial.
  const missing = names.filter((name) => !asksFor(find(partial) ?? [], name))
  return missing.map((name) => {
    const fault = {
      message: `${partial} reads “${name}”, which is not passed to it.`,
      hint: `Add the argument: ${name}: ${name}.`,
    }
    return { kind: 'argument-missing', place, subject: name, fault }
  })
}

/** Returns the fields that a partial reads of an argument that has none of them; undefined if it has one. */
function fieldsLacking(type: Type, steps: FirstSteps): string[] | undefined {
  if (type.kind !== 'row' || steps === 'all' || steps.size === 0) return undefined
  const known = [...steps].some((one) => one === 'size' || type.fields.has(one) || type.absent.has(one))
  return known ? undefined : [...steps]
}

const reads = (expression: Expression, name: string): boolean =>
  [...pathsOf(expression)].some(({ root }) => root === name)

/** Whether a template asks for a name before it uses it: in a condition, or with a default. */
function asksFor(nodes: readonly TemplateNode[], name: string): boolean {
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
