/**
 * Finds elements in a template that are not closed where they are opened, also in branches that no page has rendered. It
 * follows all branches, and reports what is wrong on some of them if it is certain: two conditions that go together, such as
 * a start tag and an end tag in branches of their own, are taken to be right.
 */
import type { FindTree } from '../names.ts'
import type { Place, TemplateNode } from '../tree.ts'

export interface NestingFault {
  /** The tag, e.g. `<div>` or `</div>`. */
  tag: string
  /** Where it is. */
  place: Place
  message: string
  hint: string
}

/** An element that is open. */
interface Open {
  name: string
  place: Place
}

/** Where the end of the markup is. */
type Lexer =
  | { in: 'text' }
  /** In a tag; `quote` is that of the attribute's value, or empty. */
  | { in: 'tag'; name: string; isEnd: boolean; quote: string; place: Place; isClosed: boolean }
  | { in: 'comment' }
  /** In an element whose content is text, such as a script. */
  | { in: 'raw'; name: string }

interface State {
  lexer: Lexer
  stack: Open[]
  faults: NestingFault[]
}

/** Thrown where nothing can be said with certainty. */
class Uncertain extends Error {}

const VOID = new Set([
  ...['area', 'base', 'br', 'col', 'embed', 'hr', 'img', 'input', 'link', 'meta', 'source', 'track', 'wbr'],
])
/** Elements that end without an end tag (https://html.spec.whatwg.org/multipage/syntax.html#optional-tags). */
const OPTIONAL = new Set([
  ...['p', 'li', 'dt', 'dd', 'option', 'optgroup', 'tr', 'td', 'th', 'thead', 'tbody', 'tfoot', 'colgroup'],
  ...['rt', 'rp', 'html', 'head', 'body', 'caption'],
])
const RAW = new Set(['script', 'style', 'textarea', 'title'])
/** States that are followed at the same time. */
const MOST_STATES = 8
/** Nodes that are followed in all templates of a blog. A node counts once for each state in which it is reached. */
const MOST_NODES = 200_000
/** Templates inside templates that are followed. */
const DEEPEST = 40

/** What is shared by the templates of a blog. */
export class Nesting {
  readonly find: FindTree
  /** Whether partials close what they open, as far as it is known. */
  readonly #balanced = new Map<string, boolean>()
  #nodesRead = 0

  constructor(find: FindTree) {
    this.find = find
  }

  /** Counts a node. @throws if the templates have too many to follow */
  visit(): void {
    if (++this.#nodesRead > MOST_NODES) throw new Uncertain()
  }

  /** Whether a partial closes what it opens. One that renders itself is taken to do so. */
  isBalanced(template: string, depth: number): boolean {
    const known = this.#balanced.get(template)
    if (known !== undefined) return known
    this.#balanced.set(template, true)
    const isBalanced = closesWhatItOpens(this, template, depth)
    this.#balanced.set(template, isBalanced)
    return isBalanced
  }
}

/** Returns the faults of a template: of each block of a page, or of a layout as a whole. */
export function nestingFaults(nesting: Nesting, template: string): NestingFault[] {
  const { find } = nesting
  const nodes = find(template) ?? []
  const layout = nodes.find((one) => one.kind === 'layout' && one.template !== undefined)
  const units =
    layout?.kind === 'layout'
      ? layout.body.flatMap((one) => (one.kind === 'block' ? [{ nodes: one.body, isWhole: true }] : []))
      : // A partial may open what another one closes.
        [{ nodes, isWhole: template.startsWith('layouts/') || template.startsWith('pages/') }]
  return units.flatMap((unit) => faultsOf(nesting, unit.nodes, unit.isWhole))
}

function faultsOf(nesting: Nesting, nodes: readonly TemplateNode[], isWhole: boolean): NestingFault[] {
  const reader = new Reader(nesting, 0)
  let states: State[]
  try {
    states = reader.nodes(nodes, [emptyState()])
  } catch (error) {
    if (error instanceof Uncertain) return []
    throw error
  }
  // With two such conditions, not every combination of branches is possible.
  if (reader.differing > 1) return []
  for (const state of states) {
    // What a partial closes may be open where it is rendered, and what it opens may be closed there.
    if (!isWhole) state.faults = state.faults.filter((one) => !one.tag.startsWith('</'))
    else
      for (const { name, place } of state.stack)
        if (!OPTIONAL.has(name)) state.faults.push(unclosed({ name, place }))
  }
  const isRight = states.some((one) => one.faults.length === 0)
  const wrong = states.filter((one) => one.faults.length > 0)
  if (isRight) return uniqueFaults(wrong.flatMap((one) => one.faults))
  const [fewest] = wrong.toSorted((a, b) => a.faults.length - b.faults.length)
  return uniqueFaults(fewest?.faults ?? [])
}

/** @param where it is not closed, e.g. ` in the loop` */
const unclosed = ({ name, place }: Open, where = ''): NestingFault => ({
  tag: `<${name}>`,
  place,
  message: `<${name}> is not closed${where}.`,
  hint: `Add </${name}>${where}.`,
})

const emptyState = (): State => ({ lexer: { in: 'text' }, stack: [], faults: [] })
const copyOf = ({ lexer, stack, faults }: State): State => ({
  lexer: { ...lexer },
  stack: [...stack],
  faults: [...faults],
})
const keyOf = ({ lexer, stack, faults }: State): string =>
  JSON.stringify([{ ...lexer, place: null }, stack.map((one) => one.name), faults.map(faultKey)])
/** What is open, whatever was wrong before. */
const shapeOf = (state: State): string => keyOf({ ...state, faults: [] })
const faultKey = ({ tag, place }: NestingFault) => `${place.line}:${place.column} ${tag}`

function uniqueFaults(faults: readonly NestingFault[]): NestingFault[] {
  return [...new Map(faults.map((one) => [faultKey(one), one])).values()]
}

/** Leaves out states that are there already. */
function distinct(states: readonly State[]): State[] {
  const byKey = new Map(states.map((one) => [keyOf(one), one]))
  if (byKey.size > MOST_STATES) throw new Uncertain()
  return [...byKey.values()]
}

class Reader {
  readonly #nesting: Nesting
  readonly #depth: number
  /** Conditions whose branches end in different states. */
  differing = 0

  constructor(nesting: Nesting, depth: number) {
    this.#nesting = nesting
    this.#depth = depth
  }

  nodes(nodes: readonly TemplateNode[], states: State[]): State[] {
    let current = states
    for (const node of nodes) current = this.#node(node, current)
    return current
  }

  #node(node: TemplateNode, states: State[]): State[] {
    this.#nesting.visit()
    switch (node.kind) {
      case 'text':
        for (const state of states) readText(state, node.text, node.place)
        return states
      case 'choice':
        return this.#branches([...node.branches.map((one) => one.body), node.otherwise], states)
      case 'case':
        return this.#branches([...node.branches.map((one) => one.body), node.otherwise], states)
      case 'loop':
        this.#loop(node.body, states)
        return this.#branches([[], node.otherwise], states)
      case 'block':
      case 'fragment':
      case 'group':
        return this.nodes(node.body, states)
      case 'layout':
        return this.nodes(node.body, states)
      case 'render':
        if (node.template === null || !this.#nesting.isBalanced(node.template, this.#depth + 1))
          throw new Uncertain()
        return states
      case 'output':
      case 'cycle':
      case 'count':
        // A tag whose name is printed.
        for (const { lexer } of states)
          if (lexer.in === 'tag' && !lexer.isClosed && lexer.quote === '') throw new Uncertain()
        return states
      default:
        return states
    }
  }

  #branches(bodies: readonly (readonly TemplateNode[])[], states: State[]): State[] {
    const after = states.map((state) => bodies.map((body) => this.nodes(body, [copyOf(state)])))
    // A condition in one of the branches may be all that differs.
    if (after.some((ends) => !haveCommonShape(ends))) this.differing++
    return distinct(after.flatMap((ends) => distinct(ends.flat())))
  }

  /** Each iteration must end as it has begun. */
  #loop(body: readonly TemplateNode[], states: State[]): void {
    for (const state of states) {
      const own: State = { ...copyOf(state), faults: [] }
      const differing = this.differing
      const ends = this.nodes(body, [own])
      if (ends.length > 1 || this.differing > differing) throw new Uncertain()
      const [end] = ends
      if (!end) return
      const before = state.stack.map((one) => one.name)
      const isSame = before.every((name, index) => name === end.stack[index]?.name)
      if (end.lexer.in !== state.lexer.in || !isSame) throw new Uncertain()
      state.faults.push(...end.faults)
      for (const { name, place } of end.stack.slice(before.length))
        if (!OPTIONAL.has(name)) state.faults.push(unclosed({ name, place }, ' in the loop'))
    }
  }
}

/** Whether all branches can end in the same state. */
function haveCommonShape([first = [], ...others]: readonly State[][]): boolean {
  const shapes = others.map((ends) => new Set(ends.map(shapeOf)))
  return first.some((end) => shapes.every((one) => one.has(shapeOf(end))))
}

function closesWhatItOpens(nesting: Nesting, template: string, depth: number): boolean {
  if (depth > DEEPEST) return false
  const nodes = nesting.find(template)
  if (!nodes) return true
  const reader = new Reader(nesting, depth)
  try {
    const states = reader.nodes(nodes, [emptyState()])
    return states.every(
      ({ lexer, stack, faults }) =>
        lexer.in === 'text' &&
        stack.every((one) => OPTIONAL.has(one.name)) &&
        faults.every((one) => !one.tag.startsWith('</')),
    )
  } catch (error) {
    if (error instanceof Uncertain) return true
    throw error
  }
}

const TAG_NAME = /[a-zA-Z0-9:-]/

function readText(state: State, text: string, start: Place): void {
  let { line, column } = start
  for (let at = 0; at < text.length; at++) {
    const char = text.charAt(at)
    const { lexer } = state
    if (lexer.in === 'comment') {
      if (text.startsWith('-->', at)) state.lexer = { in: 'text' }
    } else if (lexer.in === 'raw') {
      if (text.slice(at, at + lexer.name.length + 2).toLowerCase() === `</${lexer.name}`)
        state.lexer = {
          in: 'tag',
          name: '',
          isEnd: false,
          quote: '',
          place: { line, column },
          isClosed: false,
        }
    } else if (lexer.in === 'text') {
      if (text.startsWith('<!--', at)) state.lexer = { in: 'comment' }
      else if (char === '<' && /[a-zA-Z/!?]/.test(text.charAt(at + 1)))
        state.lexer = {
          in: 'tag',
          name: '',
          isEnd: false,
          quote: '',
          place: { line, column },
          isClosed: false,
        }
      // A tag whose name is printed.
      else if (char === '<' && at === text.length - 1) throw new Uncertain()
    } else readInTag(state, lexer, char, text.charAt(at - 1))
    if (char === '\n') [line, column] = [line + 1, 1]
    else column++
  }
}

/** Reads a character of a tag. `isClosed` tells that its name has ended. */
function readInTag(state: State, lexer: Lexer & { in: 'tag' }, char: string, before: string): void {
  if (lexer.quote !== '') {
    if (char === lexer.quote) lexer.quote = ''
    return
  }
  if (!lexer.isClosed) {
    if (char === '/' && lexer.name === '') lexer.isEnd = true
    else if (TAG_NAME.test(char) || char === '!' || char === '?') lexer.name += char.toLowerCase()
    else lexer.isClosed = true
    if (!lexer.isClosed) return
  }
  if (char === '"' || char === "'") lexer.quote = char
  else if (char === '>') {
    state.lexer = { in: 'text' }
    endTag(state, lexer, before === '/')
  }
}

function endTag(state: State, { name, isEnd, place }: Lexer & { in: 'tag' }, isSelfClosing: boolean): void {
  if (name === '' || /^[!?]/.test(name) || VOID.has(name)) return
  const { stack, faults } = state
  if (!isEnd) {
    if (isSelfClosing) return
    stack.push({ name, place })
    if (RAW.has(name)) state.lexer = { in: 'raw', name }
    return
  }
  const at = stack.findLastIndex((one) => one.name === name)
  if (at === -1) {
    // The end tag of an element that may have ended by itself.
    if (!OPTIONAL.has(name))
      faults.push({
        tag: `</${name}>`,
        place,
        message: `</${name}> closes nothing.`,
        hint: `Remove it, or open <${name}> before it.`,
      })
    return
  }
  for (const inner of stack.splice(at).slice(1))
    if (!OPTIONAL.has(inner.name)) faults.push(unclosed(inner, ` before </${name}>`))
}
