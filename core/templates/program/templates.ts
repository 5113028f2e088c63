/** Compiles the tags that use other templates: `render`, `layout` and `block`. */
import type { Expression, Given, NodeOf, Step } from '../tree.ts'
import { located, type CompileNodes, type NodeCompiling } from './compiling.ts'
import { compiled } from './expressions.ts'
import type { Names } from './names.ts'
import { Frame, type Lazy, type Read, type RenderBlock, type Rendering, type Write } from './rendering.ts'
import { BlockValue, itemsOf, LoopState } from './values.ts'

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
export function render(node: NodeOf<'render'>, at: NodeCompiling): Write {
  const { template } = node
  const place = located(node, at)
  if (template === null) throw new Error('The name of a partial is computed.')
  const { templates } = at
  const names = templates.namesOfPartial(template)
  const given = node.given.filter((one) => !one.isEach).map((one) => argument(one, names, at))
  const enter = { file: at.template, line: node.place.line }
  let compiledBody: Write | undefined
  const write = (rendering: Rendering, frame: Frame, run: (body: Write, inner: Frame) => void) => {
    const body = (compiledBody ??= templates.template(template, names))
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

export function layout(node: NodeOf<'layout'>, at: NodeCompiling, compile: CompileNodes): Write {
  const { template } = node
  const place = located(node, at)
  const body = compile(node.body, at)
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

export function block(node: NodeOf<'block'>, at: NodeCompiling, compile: CompileNodes): Write {
  const { name } = node
  const place = located(node, at)
  const body = compile(node.body, at)
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
