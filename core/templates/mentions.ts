/** What a template names: partials and layouts, routes, assets and fragments, each with its place. */
import {
  nodesOf,
  operandsOf,
  expressionsOf,
  type Expression,
  type NodeOf,
  type Place,
  type TemplateNode,
} from './tree.ts'

export interface TemplateMentions {
  /** Partials and layouts; `name` is null where it is computed. */
  templates: { name: string | null; tag: 'render' | 'layout'; place: Place }[]
  /** `url` filters on a quoted route name. */
  urls: { route: string; parameters: string[]; place: Place }[]
  /** `asset` filters on a quoted name. */
  assets: { name: string; place: Place }[]
  fragments: NodeOf<'fragment'>[]
}

/** Returns what one template names itself. Partials are not followed. */
export function mentionsOf(nodes: readonly TemplateNode[]): TemplateMentions {
  const mentions: TemplateMentions = { templates: [], urls: [], assets: [], fragments: [] }
  for (const node of nodesOf(nodes)) {
    if ((node.kind === 'render' || node.kind === 'layout') && node.template !== undefined)
      mentions.templates.push({ name: node.template, tag: node.kind, place: node.place })
    if (node.kind === 'fragment') mentions.fragments.push(node)
    for (const expression of expressionsOf(node)) noteFilters(expression, mentions)
  }
  return mentions
}

function noteFilters(expression: Expression, mentions: TemplateMentions): void {
  const [initial] = expression.operands
  const [filter] = expression.filters
  if (initial?.kind === 'literal' && typeof initial.value === 'string') {
    const { value, place } = initial
    if (filter?.name === 'asset') mentions.assets.push({ name: value, place })
    if (filter?.name === 'url') {
      const parameters = filter.arguments.flatMap((one) => one.name ?? [])
      mentions.urls.push({ route: value, parameters, place })
    }
  }
  for (const operand of operandsOf(expression))
    if (operand.kind === 'expression') noteFilters(operand.expression, mentions)
}
