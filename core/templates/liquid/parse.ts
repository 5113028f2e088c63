/** Turns what liquidjs parsed into our syntax tree. */
import {
  AssignTag,
  BlockTag,
  CaptureTag,
  CaseTag,
  ForTag,
  IfTag,
  LayoutTag,
  Output,
  RenderTag,
  TablerowTag,
  TypeGuards,
  UnlessTag,
  Value,
  type Template,
  type Token,
} from 'liquidjs'
import { remembering } from '../../shapes/remember.ts'
import type { Expression, FilterCall, Given, Operand, Place, Step, TemplateNode } from '../tree.ts'
import {
  childrenOf,
  openAssign,
  openBranches,
  openFilter,
  openLayout,
  openLoop,
  openRender,
  type FilterArgument,
} from './internals.ts'
import { FragmentTag } from './tags.ts'

export const treeOf = (templates: readonly Template[]): readonly TemplateNode[] => templates.map(nodeOf)

/** The length of all templates whose trees are remembered, in characters. */
const REMEMBERED = 4_000_000

/** Returns the tree of a template. It depends on nothing but its text. */
export const treeOfText: (text: string, templates: readonly Template[]) => readonly TemplateNode[] =
  remembering((_, templates: readonly Template[]) => treeOf(templates), REMEMBERED)

function placeOf(token: Token): Place {
  const [line = 1, column = 1] = token.getPosition()
  return { line, column }
}

function nodeOf(template: Template): TemplateNode {
  const place = placeOf(template.token)
  if (TypeGuards.isHTMLToken(template.token)) return { kind: 'text', place }
  if (template instanceof Output) return { kind: 'output', expression: valueOf(template.value, place), place }
  if (template instanceof AssignTag) {
    const { key, value } = openAssign(template)
    return { kind: 'assign', name: key, expression: valueOf(value, place), place }
  }
  if (template instanceof CaptureTag)
    return { kind: 'capture', name: template.variable, body: treeOf(template.templates), place }
  if (template instanceof ForTag || template instanceof TablerowTag) return loopOf(template, place)
  if (template instanceof IfTag || template instanceof UnlessTag || template instanceof CaseTag)
    return choiceOf(template, place)
  if (template instanceof RenderTag) return renderOf(template, place)
  if (template instanceof LayoutTag) return layoutOf(template, place)
  if (template instanceof BlockTag)
    return { kind: 'block', name: template.block, body: treeOf(template.templates), place }
  if (template instanceof FragmentTag)
    return {
      kind: 'fragment',
      name: template.fragmentName,
      lifetime: template.lifetime,
      vary: template.vary.map((one) => ofOperand(operandOf(one))),
      body: treeOf(template.body),
      place,
    }
  return {
    kind: 'tag',
    name: 'name' in template && typeof template.name === 'string' ? template.name : '',
    expressions: argumentsOf(template),
    body: treeOf(childrenOf(template)),
    place,
  }
}

function loopOf(tag: ForTag | TablerowTag, place: Place): TemplateNode {
  const { variable, collection, templates, elseTemplates } = openLoop(tag)
  const own = operandOf(collection)
  return {
    kind: 'loop',
    variable,
    collection: own.kind === 'expression' ? own.expression : ofOperand(own),
    arguments: argumentsOf(tag).slice(1),
    body: treeOf(templates),
    otherwise: treeOf(elseTemplates ?? []),
    place,
  }
}

function choiceOf(tag: IfTag | UnlessTag | CaseTag, place: Place): TemplateNode {
  const { branches, otherwise } = openBranches(tag)
  return {
    kind: 'choice',
    conditions: [
      ...(tag instanceof CaseTag ? [valueOf(tag.value, place)] : []),
      ...branches.flatMap(({ value, values = [] }) => [
        ...(value ? [valueOf(value, place)] : []),
        ...values.map((one) => ofOperand(operandOf(one))),
      ]),
    ],
    bodies: [...branches.map((one) => treeOf(one.templates)), treeOf(otherwise)],
    place,
  }
}

function renderOf(tag: RenderTag, place: Place): TemplateNode {
  const { file, hash, with: whole, forBinding } = openRender(tag)
  const template = typeof file === 'string' ? file : null
  const given = givenBy(hash.hash)
  if (whole) given.push({ ...givenValue(whole.alias ?? template ?? '', whole.value), isEach: false })
  if (forBinding)
    given.push({ ...givenValue(forBinding.alias ?? template ?? '', forBinding.value), isEach: true })
  return { kind: 'render', template, given, place }
}

function layoutOf(tag: LayoutTag, place: Place): TemplateNode {
  const { file, args, templates } = openLayout(tag)
  return {
    kind: 'layout',
    template: file === undefined ? undefined : typeof file === 'string' ? file : null,
    given: givenBy(args.hash),
    body: treeOf(templates),
    place,
  }
}

const givenBy = (hash: Readonly<Record<string, Token | undefined>>): Given[] =>
  Object.entries(hash).flatMap(([name, value]) =>
    // A name alone is true.
    value === undefined ? [] : [{ ...givenValue(name, value), isEach: false }],
  )

const givenValue = (name: string, value: Token) => ({ name, expression: ofOperand(operandOf(value)) })

const argumentsOf = (template: Template): Expression[] =>
  [...(template.arguments?.() ?? [])].map((one: unknown) =>
    one instanceof Value ? valueOf(one, placeOf(template.token)) : ofOperand(operandOf(one as Token)),
  )

const ofOperand = (operand: Operand): Expression => ({
  operands: [operand],
  filters: [],
  place: operand.place,
})

function valueOf({ initial, filters }: Value, place: Place): Expression {
  return expressionOf(
    initial.postfix,
    filters.map((one) => {
      const { name, args } = openFilter(one)
      return { name, args }
    }),
    place,
  )
}

function expressionOf(
  postfix: readonly Token[],
  filters: readonly { name: string; args: readonly FilterArgument[] }[],
  place: Place,
): Expression {
  const operands = postfix.filter((one) => !TypeGuards.isOperatorToken(one)).map(operandOf)
  return { operands, filters: filters.map(filterOf), place: operands[0]?.place ?? place }
}

const filterOf = ({ name, args }: { name: string; args: readonly FilterArgument[] }): FilterCall => ({
  name,
  arguments: args.map((one) =>
    Array.isArray(one) ? { name: one[0], value: operandOf(one[1]) } : { name: null, value: operandOf(one) },
  ),
})

function operandOf(token: Token): Operand {
  const place = placeOf(token)
  if (TypeGuards.isQuotedToken(token) || TypeGuards.isNumberToken(token))
    return { kind: 'literal', value: token.content, place }
  if (TypeGuards.isRangeToken(token))
    return { kind: 'range', from: operandOf(token.lhs), to: operandOf(token.rhs), place }
  if (TypeGuards.isFilteredValueToken(token)) {
    const filters = token.filters.map(({ name, args }) => ({ name, args: args as FilterArgument[] }))
    return { kind: 'expression', expression: expressionOf(token.initial.postfix, filters, place), place }
  }
  if (!TypeGuards.isPropertyAccessToken(token)) return { kind: 'constant', place }
  const props: readonly Token[] = token.props
  const [first, ...rest] = props
  if (token.variable)
    return { kind: 'path', root: operandOf(token.variable), steps: props.map(stepOf), place }
  const root = first === undefined ? '' : stepOf(first)
  return {
    kind: 'path',
    root: typeof root === 'number' ? String(root) : root,
    steps: rest.map(stepOf),
    place,
  }
}

function stepOf(token: Token): Step {
  if (TypeGuards.isWordToken(token) || TypeGuards.isQuotedToken(token) || TypeGuards.isNumberToken(token))
    return token.content
  return operandOf(token)
}
