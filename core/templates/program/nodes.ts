/** Compiles the nodes of a template to functions that render them. */
import { toValue } from 'liquidjs'
import { SafeHtml } from '../../content/html/safe-html.ts'
import { bodiesOf, type Expression, type Given, type NodeOf, type Step, type TemplateNode } from '../tree.ts'
import type { CompileNodes, NodeCompiling } from './compiling.ts'
import { compiled } from './expressions.ts'
import { compiledFragment } from './fragments.ts'
import type { Names } from './names.ts'
import {
  Frame,
  type Lazy,
  type Located,
  type Read,
  type RenderBlock,
  type Rendering,
  type Write,
} from './rendering.ts'
import { areEqual, BlockValue, isTrue, itemsOf, LoopState, printed } from './values.ts'

/** Compiles nodes that are rendered one after the other. */
export const sequence: CompileNodes = (nodes, at) => {
  const writes = joined(nodes).map((one) => compiledNode(one, at))
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

/** Whether rendering a node can end the loop around it. */
const mayJump = (node: TemplateNode): boolean =>
  node.kind === 'jump' ||
  (!(node.kind === 'loop' && node.tag === 'for') && bodiesOf(node).some((body) => body.some(mayJump)))

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
      return output(node, at)
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
      return node.tag === 'for' ? loop(node, at) : table(node, at)
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
      return layout(node, at)
    case 'block':
      return block(node, at)
    case 'fragment':
      return compiledFragment(node, at, located(node, at), sequence)
  }
}

const located = ({ place }: TemplateNode, { template }: NodeCompiling): Located => ({ ...place, template })

function output(node: NodeOf<'output'>, at: NodeCompiling): Write {
  const [read, place] = [compiled(node.expression, at), located(node, at)]
  if (isRaw(node.expression))
    return (rendering, frame) => {
      rendering.at = place
      rendering.out += String(read(rendering, frame))
    }
  return (rendering, frame) => {
    rendering.at = place
    const value = read(rendering, frame)
    rendering.out += printed(value)
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

/** Binds the variable of a loop and its counters while it runs. */
function inLoop(
  [variable, counters]: readonly [number, number],
  frame: Frame,
  state: LoopState,
  run: () => void,
): void {
  const before = [frame.bind(variable, undefined), frame.bind(counters, state)] as const
  run()
  frame.release(counters, before[1])
  frame.release(variable, before[0])
}

function loop(node: NodeOf<'loop'>, at: NodeCompiling): Write {
  const { variable, text } = node
  const place = located(node, at)
  const collection = compiled(node.collection, at)
  const select = selection(node, at)
  const slots = [at.names.slot(variable), at.names.slot('forloop')] as const
  const body = sequence(node.body, at)
  const otherwise = sequence(node.otherwise, at)
  const name = `${variable}-${text}`
  return (rendering, frame) => {
    rendering.at = place
    const all = itemsOf(collection(rendering, frame))
    if (all.length === 0) return otherwise(rendering, frame)
    const items = select(all, rendering, frame)
    const state = new LoopState(items.length, name)
    inLoop(slots, frame, state, () => {
      for (const item of items) {
        frame.bind(slots[0], item)
        rendering.jump = 'none'
        body(rendering, frame)
        // A jump may have been made in the body.
        if ((rendering.jump as string) === 'break') break
        state.i++
      }
    })
    rendering.jump = 'none'
  }
}

type Select = (items: readonly unknown[], rendering: Rendering, frame: Frame) => readonly unknown[]

/** Compiles `offset`, `limit` and `reversed`, which are applied in this order. */
function selection(node: NodeOf<'loop'>, at: NodeCompiling): Select {
  const { modifiers } = node
  const key = `${node.variable}-${node.text}`
  const read = (name: string): Read | undefined => {
    const expression = modifiers.get(name)
    return expression === undefined ? undefined : expression ? compiled(expression, at) : () => true
  }
  const [offset, limit, reversed] = [read('offset'), read('limit'), read('reversed')]
  return (items, rendering, frame) => {
    // `offset: continue` begins where the last loop over the same list has ended.
    const end = frame.names.find('continue')
    if (end === undefined && modifiers.size === 0) return items
    const before = end === undefined ? undefined : frame.bind(end, frame.endOf(key) ?? {})
    const from = offset?.(rendering, frame)
    const most = limit?.(rendering, frame)
    const isReversed = reversed?.(rendering, frame) !== undefined
    if (end !== undefined) frame.release(end, before)
    let selected = items
    if (from !== undefined) selected = selected.slice(from as number)
    if (most !== undefined) selected = selected.slice(0, most as number)
    if (isReversed) selected = selected.toReversed()
    if (end !== undefined) frame.noteEnd(key, ((from || 0) as number) + selected.length)
    return selected
  }
}

function table(node: NodeOf<'loop'>, at: NodeCompiling): Write {
  const { variable, text, modifiers } = node
  const place = located(node, at)
  const collection = compiled(node.collection, at)
  const slots = [at.names.slot(variable), at.names.slot('tablerowloop')] as const
  const body = sequence(node.body, at)
  const read = (name: string): Read => {
    const expression = modifiers.get(name)
    return expression ? compiled(expression, at) : () => (expression === null ? true : undefined)
  }
  const [offset, limit, cols] = [read('offset'), read('limit'), read('cols')]
  return (rendering, frame) => {
    rendering.at = place
    const all = itemsOf(collection(rendering, frame))
    const from = (offset(rendering, frame) || 0) as number
    const most = (limit(rendering, frame) ?? all.length) as number
    const items = all.slice(from, from + most)
    const columns = (cols(rendering, frame) || items.length) as number
    const state = new LoopState(items.length, `${text}-${columns}`, columns)
    inLoop(slots, frame, state, () => {
      for (const item of items) {
        frame.bind(slots[0], item)
        const row = Number(state.read('row'))
        if (state.read('col0') === 0) rendering.out += `${row === 1 ? '' : '</tr>'}<tr class="row${row}">`
        rendering.out += `<td class="col${Number(state.read('col'))}">`
        body(rendering, frame)
        rendering.out += '</td>'
        state.i++
      }
    })
    if (items.length > 0) rendering.out += '</tr>'
  }
}

function cycle({ group, key, values, ...node }: NodeOf<'cycle'>, at: NodeCompiling): Write {
  const place: Located = { ...node.place, template: at.template }
  const groupOf = group ? compiled(group, at) : () => undefined
  const writes = values.map((one) => output({ kind: 'output', expression: one, place: node.place }, at))
  return (rendering, frame) => {
    rendering.at = place
    const turn = frame.turn(`${String(groupOf(rendering, frame))}:${key}`, writes.length)
    writes[turn]?.(rendering, frame)
  }
}

/** An argument of a partial, ready to be passed. */
interface Argument {
  slot: number
  read: Read
  path: Lazy['path']
  /** The name that it is, without steps. */
  own: number | undefined
}

/** Returns `post.category.slug` as its parts if all of them are written out. */
function writtenPath({ operands: [one], filters, postfix }: Expression): Lazy['path'] {
  if (one?.kind !== 'path' || typeof one.root !== 'string' || filters.length > 0 || postfix) return undefined
  const isWritten = (step: Step): step is string | number => typeof step !== 'object'
  const steps = one.steps.filter(isWritten)
  return steps.length === one.steps.length ? [one.root, ...steps] : undefined
}

function argument({ name, expression }: Given, names: Names, at: NodeCompiling): Argument {
  const path = writtenPath(expression)
  return {
    slot: names.slot(name),
    read: compiled(expression, at),
    path,
    own: path?.length === 1 ? at.names.slot(path[0]) : undefined,
  }
}

/**
 * A partial sees its arguments and nothing else of the page. They are evaluated when the partial reads them: what only a
 * fragment of the partial reads is not loaded while its copy is at hand.
 */
function render(node: NodeOf<'render'>, at: NodeCompiling): Write {
  const { template } = node
  const place = located(node, at)
  if (template === null) throw new Error('The name of a partial is computed.')
  const { templates } = at
  const names = templates.namesOfPartial(template)
  const given = node.given.filter((one) => !one.isEach).map((one) => argument(one, names, at))
  const enter = { file: at.template, line: node.place.line }
  const write = (rendering: Rendering, frame: Frame, run: (body: Write, inner: Frame) => void) => {
    const body = templates.template(template, names)
    const inner = new Frame(names, frame.globals, null)
    for (const { slot, read, path, own } of given) {
      const known = own === undefined ? undefined : frame.known(own)
      if (known) inner.assign(slot, known.value)
      else inner.give(slot, { read, frame, path })
    }
    rendering.services.tracer.enterTemplate(template, enter)
    run(body, inner)
    rendering.services.tracer.leaveTemplate()
    // A jump ends the partial only.
    rendering.jump = 'none'
  }
  const each = node.given.find((one) => one.isEach)
  if (!each)
    return (rendering, frame) => {
      rendering.at = place
      write(rendering, frame, (body, inner) => body(rendering, inner))
    }
  const collection = compiled(each.expression, at)
  const [variable, counters] = [names.slot(each.name), names.slot('forloop')]
  return (rendering, frame) => {
    rendering.at = place
    const items = itemsOf(collection(rendering, frame))
    const state = new LoopState(items.length, `${each.name}-${each.text}`)
    write(rendering, frame, (body, inner) => {
      inner.assign(counters, state)
      for (const item of items) {
        inner.assign(variable, item)
        body(rendering, inner)
        state.i++
      }
    })
  }
}

function layout(node: NodeOf<'layout'>, at: NodeCompiling): Write {
  const { template } = node
  const place = located(node, at)
  const body = sequence(node.body, at)
  if (template === undefined)
    return (rendering, frame) => {
      frame.isStoring = false
      body(rendering, frame)
    }
  if (template === null) throw new Error('The name of a layout is computed.')
  const given = node.given.map(({ name, expression }) => ({
    slot: at.names.slot(name),
    read: compiled(expression, at),
  }))
  const outer = at.templates.template(template, at.names)
  const enter = { file: at.template, line: node.place.line }
  return (rendering, frame) => {
    frame.isStoring = true
    const rest = rendering.captured(body, frame)
    // What is outside of blocks is the block without a name.
    if (!frame.blockOf('')) frame.noteBlock('', () => void (rendering.out += rest))
    frame.isStoring = false
    rendering.at = place
    const values = given.map(({ read }) => read(rendering, frame))
    const before = given.map(({ slot }, index) => frame.bind(slot, values[index]))
    rendering.services.tracer.enterTemplate(template, enter)
    outer(rendering, frame)
    rendering.services.tracer.leaveTemplate()
    for (const [index, { slot }] of given.entries()) frame.release(slot, before[index])
  }
}

function block(node: NodeOf<'block'>, at: NodeCompiling): Write {
  const { name } = node
  const place = located(node, at)
  const body = sequence(node.body, at)
  const slot = at.names.slot('block')
  return (rendering, frame) => {
    rendering.at = place
    const own: RenderBlock = (base) => {
      const before = frame.bind(slot, base)
      body(rendering, frame)
      frame.release(slot, before)
    }
    const ofPage = frame.blockOf(name)
    const write: RenderBlock = ofPage
      ? (base) => ofPage(new BlockValue(() => rendering.captured(() => own(base), frame)))
      : own
    if (frame.isStoring) frame.noteBlock(name, write)
    else write(new BlockValue(() => ''))
  }
}
