/** Turns what liquidjs parsed into our syntax tree. */
import {
  AssignTag,
  BlockTag,
  BreakTag,
  CaptureTag,
  CaseTag,
  CommentTag,
  ContinueTag,
  CycleTag,
  DecrementTag,
  EchoTag,
  ForTag,
  IfTag,
  IncrementTag,
  InlineCommentTag,
  LayoutTag,
  LiquidTag,
  Output,
  RawTag,
  RenderTag,
  TablerowTag,
  Tokenizer,
  TypeGuards,
  UnlessTag,
  type Liquid,
  type Template,
  type Token,
  type Value,
} from 'liquidjs'
import { remembering } from '../../shapes/remember.ts'
import type {
  ConstantName,
  Expression,
  FilterCall,
  Given,
  Operand,
  Place,
  Step,
  TemplateNode,
} from '../tree.ts'
import { parsed } from './engine.ts'
import { FragmentTag } from './fragment-tag.ts'
import {
  openAssign,
  openBranches,
  openCase,
  openCounter,
  openCycle,
  openEcho,
  openFilter,
  openLayout,
  openLoop,
  openRaw,
  openRender,
  type Binding,
  type FilterArgument,
} from './internals.ts'

export const treeOf = (templates: readonly Template[]): readonly TemplateNode[] => templates.map(nodeOf)

/** The length of all templates whose trees are remembered, in characters. */
const REMEMBERED = 4_000_000

/**
 * Parses a template. The tree depends on nothing but its text.
 * @param name of the template, for errors
 */
export const treeOfText: (text: string, engine: Liquid, name: string) => readonly TemplateNode[] =
  remembering((text, engine: Liquid, name: string) => treeOf(parsed(engine, text, name)), REMEMBERED)

function placeOf(token: Token): Place {
  const [line = 1, column = 1] = token.getPosition()
  return { line, column }
}

/** Returns the place where a text begins that was trimmed at its start. */
function afterTrim(
  { input, begin, trimLeft }: Pick<Token, 'input' | 'begin'> & { trimLeft: number },
  { line, column }: Place,
): Place {
  const lines = input.slice(begin, begin + trimLeft).split('\n')
  const last = lines.at(-1) ?? ''
  return lines.length === 1
    ? { line, column: column + last.length }
    : { line: line + lines.length - 1, column: last.length + 1 }
}

function nodeOf(template: Template): TemplateNode {
  const place = placeOf(template.token)
  if (TypeGuards.isHTMLToken(template.token))
    return { kind: 'text', text: template.token.getContent(), place: afterTrim(template.token, place) }
  if (template instanceof Output) return { kind: 'output', expression: valueOf(template.value, place), place }
  if (template instanceof EchoTag) {
    const { value } = openEcho(template)
    return value ? { kind: 'output', expression: valueOf(value, place), place } : textNode('', place)
  }
  if (template instanceof AssignTag) {
    const { key, value } = openAssign(template)
    return { kind: 'assign', name: key, expression: valueOf(value, place), place }
  }
  if (template instanceof CaptureTag)
    return { kind: 'capture', name: template.variable, body: treeOf(template.templates), place }
  if (template instanceof ForTag || template instanceof TablerowTag) return loopOf(template, place)
  if (template instanceof IfTag || template instanceof UnlessTag) return choiceOf(template, place)
  if (template instanceof CaseTag) return caseOf(template, place)
  if (template instanceof RenderTag) return renderOf(template, place)
  if (template instanceof LayoutTag) return layoutOf(template, place)
  if (template instanceof BlockTag)
    return { kind: 'block', name: template.block, body: treeOf(template.templates), place }
  if (template instanceof FragmentTag)
    return {
      kind: 'fragment',
      name: template.fragmentName,
      lifetime: template.lifetime,
      bodyHash: template.bodyHash,
      vary: template.vary.map(ofToken),
      body: treeOf(template.body),
      place,
    }
  return simpleNodeOf(template, place)
}

function simpleNodeOf(template: Template, place: Place): TemplateNode {
  if (template instanceof CycleTag) {
    const { group, candidates } = openCycle(template)
    return {
      kind: 'cycle',
      group: group ? ofToken(group) : null,
      key: candidates.map((one) => one.getText()).join(','),
      values: candidates.map((one) => expressionOf(one.initial.postfix, one.filters.map(openFilter), place)),
      place,
    }
  }
  if (template instanceof IncrementTag || template instanceof DecrementTag) {
    const { variable } = openCounter(template)
    return { kind: 'count', name: variable, by: template instanceof IncrementTag ? 1 : -1, place }
  }
  if (template instanceof BreakTag) return { kind: 'jump', tag: 'break', place }
  if (template instanceof ContinueTag) return { kind: 'jump', tag: 'continue', place }
  if (template instanceof LiquidTag) return { kind: 'group', body: treeOf(template.templates), place }
  if (template instanceof RawTag)
    return textNode(
      openRaw(template)
        .tokens.map((one) => one.getText())
        .join(''),
      place,
    )
  if (template instanceof CommentTag || template instanceof InlineCommentTag) return textNode('', place)
  throw new Error(`The tag ${template.token.getText()} has no node.`)
}

const textNode = (text: string, place: Place): TemplateNode => ({ kind: 'text', text, place })

function loopOf(tag: ForTag | TablerowTag, place: Place): TemplateNode {
  const { variable, collection, hash, args, templates, elseTemplates } = openLoop(tag)
  const modifiers = Object.entries((hash ?? args)?.hash ?? {})
  return {
    kind: 'loop',
    tag: tag instanceof ForTag ? 'for' : 'tablerow',
    variable,
    collection: ofToken(collection),
    text: collection.getText(),
    modifiers: new Map(modifiers.map(([name, value]) => [name, value ? ofToken(value) : null])),
    body: treeOf(templates),
    otherwise: treeOf(elseTemplates ?? []),
    place,
  }
}

function choiceOf(tag: IfTag | UnlessTag, place: Place): TemplateNode {
  const { branches, otherwise } = openBranches(tag)
  return {
    kind: 'choice',
    branches: branches.map(({ value, templates }, index) => ({
      condition: valueOf(value, place),
      wanted: !(tag instanceof UnlessTag && index === 0),
      body: treeOf(templates),
    })),
    otherwise: treeOf(otherwise),
    place,
  }
}

function caseOf(tag: CaseTag, place: Place): TemplateNode {
  const { branches, otherwise } = openCase(tag)
  return {
    kind: 'case',
    subject: valueOf(tag.value, place),
    branches: branches.map(({ values, templates }) => ({
      values: values.map(ofToken),
      body: treeOf(templates),
    })),
    otherwise: treeOf(otherwise),
    place,
  }
}

function renderOf(tag: RenderTag, place: Place): TemplateNode {
  const { file, hash, with: whole, forBinding } = openRender(tag)
  const template = typeof file === 'string' ? file : null
  const given = givenBy(hash.hash, place)
  const bound = ({ value, alias }: Binding, isEach: boolean): Given => ({
    name: alias ?? template ?? '',
    expression: ofToken(value),
    isEach,
    text: value.getText(),
  })
  if (whole) given.push(bound(whole, false))
  if (forBinding) given.push(bound(forBinding, true))
  return { kind: 'render', template, given, place }
}

function layoutOf(tag: LayoutTag, place: Place): TemplateNode {
  const { file, args, templates } = openLayout(tag)
  return {
    kind: 'layout',
    template: file === undefined ? undefined : typeof file === 'string' ? file : null,
    given: givenBy(args.hash, place),
    body: treeOf(templates),
    place,
  }
}

const givenBy = (hash: Readonly<Record<string, Token | undefined>>, place: Place): Given[] =>
  Object.entries(hash).map(([name, value]) => ({
    name,
    // A name alone is true.
    expression: value ? ofToken(value) : ofOperand({ kind: 'literal', value: true, place }),
    isEach: false,
    text: value?.getText() ?? '',
  }))

function ofToken(token: Token): Expression {
  const operand = operandOf(token)
  return operand.kind === 'expression' ? operand.expression : ofOperand(operand)
}

const ofOperand = (operand: Operand): Expression => ({
  operands: [operand],
  filters: [],
  place: operand.place,
})

const valueOf = ({ initial, filters }: Value, place: Place): Expression =>
  // The filter that escapes has no name that a template can write.
  expressionOf(
    initial.postfix,
    filters.map(openFilter).filter((one) => /^\w+$/.test(one.name)),
    place,
  )

function expressionOf(
  tokens: readonly Token[],
  filters: readonly { name: string; args: readonly FilterArgument[] }[],
  place: Place,
): Expression {
  const operands: Operand[] = []
  const postfix = tokens.map((one) =>
    TypeGuards.isOperatorToken(one) ? one.operator : operands.push(operandOf(one)) - 1,
  )
  return {
    operands,
    ...(postfix.length > 1 ? { postfix } : {}),
    filters: filters.map(filterOf),
    place: operands[0]?.place ?? place,
  }
}

function filterOf({ name, args }: { name: string; args: readonly FilterArgument[] }): FilterCall {
  const given = args.map((one) =>
    Array.isArray(one) ? { name: one[0], value: operandOf(one[1]) } : { name: null, value: operandOf(one) },
  )
  const each = name.endsWith('_exp') ? eachOf(given) : undefined
  return { name, arguments: given, ...(each ? { each } : {}) }
}

/** Parses the expression of `where_exp` and its relatives, which is a text. */
function eachOf([item, text]: FilterCall['arguments']): FilterCall['each'] {
  if (item?.value.kind !== 'literal' || text?.value.kind !== 'literal') return undefined
  const { initial, filters } = new Tokenizer(String(text.value.value)).readFilteredValue()
  const { place } = text.value
  return {
    item: String(item.value.value),
    expression: expressionOf(initial.postfix, filters.map(openFilter), place),
  }
}

const CONSTANTS: Readonly<Record<string, ConstantName>> = {
  nil: 'nil',
  null: 'nil',
  empty: 'empty',
  blank: 'blank',
}

function operandOf(token: Token): Operand {
  const place = placeOf(token)
  if (TypeGuards.isQuotedToken(token) || TypeGuards.isNumberToken(token))
    return { kind: 'literal', value: token.content, place }
  if (TypeGuards.isRangeToken(token))
    return { kind: 'range', from: operandOf(token.lhs), to: operandOf(token.rhs), place }
  if (TypeGuards.isFilteredValueToken(token)) {
    const filters = token.filters.map(openFilter)
    return { kind: 'expression', expression: expressionOf(token.initial.postfix, filters, place), place }
  }
  if (TypeGuards.isLiteralToken(token)) {
    const name = CONSTANTS[token.literal]
    return name
      ? { kind: 'constant', name, place }
      : { kind: 'literal', value: token.literal === 'true', place }
  }
  if (!TypeGuards.isPropertyAccessToken(token))
    throw new Error(`The value ${token.getText()} has no operand.`)
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
