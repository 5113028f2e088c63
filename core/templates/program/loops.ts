/** Compiles loops: `for` and `tablerow`. */
import type { NodeOf } from '../tree.ts'
import { located, type CompileNodes, type NodeCompiling } from './compiling.ts'
import { compiled } from './expressions.ts'
import type { Frame, Read, Rendering, Write } from './rendering.ts'
import { itemsOf, LoopState } from './values.ts'

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

export function loop(node: NodeOf<'loop'>, at: NodeCompiling, compile: CompileNodes): Write {
  const { variable, text } = node
  const place = located(node, at)
  const collection = compiled(node.collection, at)
  const select = selection(node, at)
  const slots = [at.names.slot(variable), at.names.slot('forloop')] as const
  const body = compile(node.body, at)
  const otherwise = compile(node.otherwise, at)
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

export function table(node: NodeOf<'loop'>, at: NodeCompiling, compile: CompileNodes): Write {
  const { variable, text, modifiers } = node
  const place = located(node, at)
  const collection = compiled(node.collection, at)
  const slots = [at.names.slot(variable), at.names.slot('tablerowloop')] as const
  const body = compile(node.body, at)
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
