/** Compiles the nodes of a template to functions that render them. */
import { toValue } from 'liquidjs'
import { SafeHtml } from '../../content/html/safe-html.ts'
import { bodiesOf, type Expression, type NodeOf, type TemplateNode } from '../tree.ts'
import { located, type CompileNodes, type NodeCompiling } from './compiling.ts'
import { compiled } from './expressions.ts'
import { compiledFragment } from './fragments.ts'
import { loop, table } from './loops.ts'
import type { Located } from '../recorder.ts'
import type { Write } from './rendering.ts'
import { block, layout, render } from './templates.ts'
import { areEqual, isTrue, printed } from './values.ts'

/** Compiles nodes that are rendered one after the other. */
export const sequence: CompileNodes = (nodes, at) => {
  const writes = at.isRecorded
    ? joined(nodes).map((one) => recordedNode(one, at))
    : withTexts(joined(nodes)).map(([one, text]) =>
        one.kind === 'output' ? output(one, at, text) : compiledNode(one, at),
      )
  const units = 1 + nodes.length
  const [first] = writes
  if (!first) return (rendering) => rendering.spend(units)
  if (nodes.some(mayJump))
    return (rendering, frame) => {
      rendering.spend(units)
      for (const write of writes) {
        write(rendering, frame)
        if (rendering.jump !== 'none') return
      }
    }
  if (writes.length === 1)
    return (rendering, frame) => {
      rendering.spend(units)
      first(rendering, frame)
    }
  return (rendering, frame) => {
    rendering.spend(units)
    for (const write of writes) write(rendering, frame)
  }
}

/** Joins texts that follow each other. */
function joined(nodes: readonly TemplateNode[]): TemplateNode[] {
  const result: TemplateNode[] = []
  for (const node of nodes) {
    const last = result.at(-1)
    if (node.kind === 'text' && last?.kind === 'text')
      result[result.length - 1] = { ...last, text: last.text + node.text }
    else if (node.kind !== 'text' || node.text !== '') result.push(node)
  }
  return result
}

/** Returns the nodes, each output with the text behind it, which it prints as well. */
function withTexts(nodes: readonly TemplateNode[]): [TemplateNode, string][] {
  const result: [TemplateNode, string][] = []
  for (const node of nodes) {
    const last = result.at(-1)
    if (node.kind === 'text' && last?.[0].kind === 'output') last[1] += node.text
    else result.push([node, ''])
  }
  return result
}

/** Whether rendering a node can end the loop around it. */
const mayJump = (node: TemplateNode): boolean =>
  node.kind === 'jump' ||
  (!(node.kind === 'loop' && node.tag === 'for') && bodiesOf(node).some((body) => body.some(mayJump)))

/** Nodes that print text themselves. */
const PRINTING: ReadonlySet<TemplateNode['kind']> = new Set(['text', 'output', 'cycle', 'count'])

/** Compiles a node that reports to the recorder of the rendering. */
function recordedNode(node: TemplateNode, at: NodeCompiling): Write {
  const write = compiledNode(node, at)
  const place = located(node, at)
  return (rendering, frame) => {
    const { recorder } = rendering
    recorder?.entered(place, () => frame.all(rendering))
    const from = rendering.out.length
    write(rendering, frame)
    if (PRINTING.has(node.kind)) recorder?.printed(place, from, rendering.out.length, node.kind === 'text')
  }
}

function compiledNode(node: TemplateNode, at: NodeCompiling): Write {
  switch (node.kind) {
    case 'text': {
      const { text } = node
      return (rendering) => {
        rendering.out += text
      }
    }
    case 'group':
      return sequence(node.body, at)
    case 'jump': {
      const { tag } = node
      return (rendering) => {
        rendering.jump = tag
      }
    }
    case 'output':
      return output(node, at, '')
    case 'assign': {
      const [value, slot, place] = [
        compiled(node.expression, at),
        at.names.slot(node.name),
        located(node, at),
      ]
      return (rendering, frame) => {
        rendering.at = place
        frame.assign(slot, value(rendering, frame))
      }
    }
    case 'capture': {
      const [body, slot] = [sequence(node.body, at), at.names.slot(node.name)]
      // Everything in it was escaped when it was rendered.
      return (rendering, frame) => frame.assign(slot, new SafeHtml(rendering.captured(body, frame)))
    }
    case 'choice':
      return choice(node, at)
    case 'case':
      return cases(node, at)
    case 'loop':
      return node.tag === 'for' ? loop(node, at, sequence) : table(node, at, sequence)
    case 'cycle':
      return cycle(node, at)
    case 'count': {
      const { name, by } = node
      return (rendering, frame) => {
        const before = frame.count(name, by)
        rendering.out += String(by > 0 ? before : before + by)
      }
    }
    case 'render':
      return render(node, at)
    case 'layout':
      return layout(node, at, sequence)
    case 'block':
      return block(node, at, sequence)
    case 'fragment':
      return compiledFragment(node, at, located(node, at), sequence)
  }
}

/** @param text printed after the value */
function output(node: NodeOf<'output'>, at: NodeCompiling, text: string): Write {
  const [read, place] = [compiled(node.expression, at), located(node, at)]
  if (isRaw(node.expression))
    return (rendering, frame) => {
      rendering.at = place
      rendering.out += String(read(rendering, frame)) + text
    }
  return (rendering, frame) => {
    rendering.at = place
    const value = read(rendering, frame)
    rendering.out += printed(value) + text
  }
}

/** Whether a value is printed as it is: `raw` accepts only safe HTML. */
const isRaw = ({ filters }: Expression): boolean => filters.at(-1)?.name === 'raw'

function choice(node: NodeOf<'choice'>, at: NodeCompiling): Write {
  const place = located(node, at)
  const branches = node.branches.map(({ condition, wanted, body }) => ({
    holds: compiled(condition, at),
    wanted,
    body: sequence(body, at),
  }))
  const otherwise = sequence(node.otherwise, at)
  return (rendering, frame) => {
    rendering.at = place
    for (const { holds, wanted, body } of branches)
      if (isTrue(holds(rendering, frame)) === wanted) return body(rendering, frame)
    otherwise(rendering, frame)
  }
}

function cases(node: NodeOf<'case'>, at: NodeCompiling): Write {
  const place = located(node, at)
  const subject = compiled(node.subject, at)
  const branches = node.branches.map(({ values, body }) => ({
    values: values.map((one) => compiled(one, at)),
    body: sequence(body, at),
  }))
  const otherwise = sequence(node.otherwise, at)
  return (rendering, frame) => {
    rendering.at = place
    const value: unknown = toValue(subject(rendering, frame))
    let isFound = false
    // Several branches may have the value: liquidjs renders all of them.
    for (const { values, body } of branches)
      if (values.some((one) => areEqual(value, one(rendering, frame)))) {
        body(rendering, frame)
        isFound = true
      }
    if (!isFound) otherwise(rendering, frame)
  }
}

function cycle({ group, key, values, ...node }: NodeOf<'cycle'>, at: NodeCompiling): Write {
  const place: Located = { ...node.place, template: at.template }
  const groupOf = group ? compiled(group, at) : () => undefined
  const writes = values.map((one) => output({ kind: 'output', expression: one, place: node.place }, at, ''))
  return (rendering, frame) => {
    rendering.at = place
    const turn = frame.turn(`${String(groupOf(rendering, frame))}:${key}`, writes.length)
    writes[turn]?.(rendering, frame)
  }
}
