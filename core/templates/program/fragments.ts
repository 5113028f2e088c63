/**
 * Fragments: what their bodies see, and the copies of what they render. A body sees its inputs, and nothing else of the
 * page. Each input is a part of the key of its copies, so a copy cannot contain what its key does not tell.
 */
import { Drop } from 'liquidjs'
import { joinDependences, NOTHING, type Dependence } from '../../caching/dependence.ts'
import { keyedInput } from '../../caching/provenance.ts'
import type { FragmentRequest } from '../../caching/session.ts'
import type { DefinitionParts } from '../../caching/store.ts'
import { hashOf } from '../../shapes/hash.ts'
import { WordedError } from '../failure.ts'
import type { FragmentInputs } from '../fragment-inputs.ts'
import type { FirstSteps } from '../names.ts'
import { FRAGMENT_PROBLEMS } from '../problems.ts'
import { DataNeeded, fragmentPart, type DefinitionState } from '../scope.ts'
import type { NodeOf } from '../tree.ts'
import type { CompileNodes, NodeCompiling } from './compiling.ts'
import { compiled } from './expressions.ts'
import { Names } from './names.ts'
import type { Located } from '../recorder.ts'
import { Frame, type Rendering, type Write } from './rendering.ts'
import { LoopState, property } from './values.ts'

/** @param compile compiles the body */
export function compiledFragment(
  node: NodeOf<'fragment'>,
  at: NodeCompiling,
  place: Located,
  compile: CompileNodes,
): Write {
  const { name, lifetime } = node
  const inputs = at.templates.inputs(node)
  const vary = node.vary.map((one) => compiled(one, at))
  const names = new Names()
  const body = compile(node.body, { ...at, names })
  const partsIn = partsOfDefinition(node, inputs)
  return (rendering, frame) => {
    rendering.at = place
    const { services } = rendering
    const { fragments, tracer } = services
    const needsKey = fragments.isKeeping || tracer.isRecording
    const varied = vary.map((one) => keyText(one(rendering, frame)))
    const { parts, hash } = needsKey ? partsIn(services.definition) : NO_PARTS
    const seen = new FragmentInput(frame, inputs, rendering)
    const key = needsKey ? seen.key() : undefined
    const request: FragmentRequest = {
      name,
      key: key === undefined ? undefined : [`${name}@${hash}`, ...varied, ...key].join(' '),
      lifetime,
      refresh: services.refreshOf(name),
      file: place.template,
      line: place.line,
    }
    const kept = fragments.take(request)
    if (kept !== undefined) {
      rendering.out += kept
      return
    }
    if (needsKey) seen.requireData()
    fragments.open()
    const began = performance.now()
    let html: string
    try {
      if (inputs.readsClock) fragments.limit(0)
      html = rendering.captured(body, seen.closed(names))
    } catch (error) {
      fragments.abandon()
      throw error
    }
    const dependence = needsKey ? seen.dependence() : NOTHING
    fragments.keep(
      request,
      html,
      dependence,
      new Map([...parts, ...queriesOf(dependence, services.definition)]),
      performance.now() - began,
    )
    rendering.print(html)
  }
}

/** Returns the state of the definition's parts that a body uses. It is the same for all renderings of a definition. */
function partsOfDefinition(node: NodeOf<'fragment'>, inputs: FragmentInputs) {
  const known = new WeakMap<DefinitionState, { parts: DefinitionParts; hash: string }>()
  return (definition: DefinitionState) => {
    let found = known.get(definition)
    if (!found) {
      const parts = new Map<string, string>()
      for (const part of partsOf(node.name, node.bodyHash, inputs))
        parts.set(part, definition.state(part) ?? '')
      found = { parts, hash: hashOf(JSON.stringify([...parts])) }
      known.set(definition, found)
    }
    return found
  }
}

const NO_PARTS = { parts: new Map<string, string>(), hash: '' }

/** Filters whose results depend on parts of the definition. */
const PARTS_OF_FILTER: Readonly<Record<string, readonly string[]>> = {
  markdown: ['allowed HTML'],
  date: ['time zone'],
  ago: ['language'],
  reading_minutes: ['language'],
  structured_data: ['routes', 'setting *'],
}

/** Yields the queries whose results a fragment shows. */
function* queriesOf({ sets }: Dependence, definition: DefinitionState): Generator<[string, string]> {
  for (const set of sets.values()) {
    const state = set.kind === 'list' ? definition.state(`query ${set.name}`) : undefined
    if (set.kind === 'list' && state !== undefined) yield [`query ${set.name}`, state]
  }
}

/** Yields the parts of the definition that a fragment uses. The queries of its data are parts of its key by themselves. */
function* partsOf(name: string, bodyHash: string, inputs: FragmentInputs): Generator<string> {
  yield fragmentPart(name, bodyHash)
  yield `fragment-rule ${name}`
  for (const template of inputs.templates) yield `template ${template}`
  if (inputs.routes === 'all') yield 'routes'
  else for (const route of inputs.routes) yield `route ${route}`
  if (inputs.assets === 'all') yield 'assets'
  else for (const asset of inputs.assets) yield `asset ${asset}`
  for (const filter of inputs.filters) yield* PARTS_OF_FILTER[filter] ?? []
  const blog = inputs.roots.get('blog')
  if (blog !== undefined) for (const setting of blog === 'all' ? ['*'] : blog) yield `setting ${setting}`
}

function keyText(value: unknown): string {
  if (value === null || value === undefined) return ''
  if (typeof value === 'object' && !(value instanceof Drop))
    throw new WordedError(FRAGMENT_PROBLEMS['fragment-vary-not-plain']())
  return encodeURIComponent(String(value))
}

/** Names that are not part of a key: the body gets the time, which limits the lifetime of its copy. */
const CLOCK = 'now'

/** The inputs of a fragment in one rendering. */
class FragmentInput {
  readonly #frame: Frame
  readonly #inputs: FragmentInputs
  readonly #rendering: Rendering
  readonly #dependences: Dependence[] = []
  /** The data that the body reads. What it depends on is known once it is loaded. */
  readonly #data = new Set<string>()

  constructor(frame: Frame, inputs: FragmentInputs, rendering: Rendering) {
    this.#frame = frame
    this.#inputs = inputs
    this.#rendering = rendering
  }

  /** Returns the parts of the key; undefined if an input cannot be identified. @throws DataNeeded */
  key(): string[] | undefined {
    const parts: string[] = []
    for (const [root, steps] of this.#inputs.roots) {
      if (root === CLOCK) continue
      const local = this.#frame.isLocal(root) ? this.#localPart(root) : null
      const shared = this.#isShared(root) ? this.#sharedPart(root, steps) : null
      if (local === undefined || shared === undefined) return undefined
      if (local !== null) parts.push(`${root}=${local}`)
      if (shared !== null) parts.push(`${root}:=${shared}`)
    }
    return parts
  }

  /** Requires all inputs at once, so that a fragment needs at most one more rendering. @throws DataNeeded */
  requireData(): void {
    const missing = new Set<string>()
    for (const root of this.#inputs.roots.keys()) {
      try {
        if (this.#frame.isLocal(root)) this.#local(root)
        else if (this.#isShared(root)) this.#shared(root)
      } catch (error) {
        if (!(error instanceof DataNeeded)) throw error
        for (const name of error.names) missing.add(name)
      }
    }
    if (missing.size > 0) throw new DataNeeded([...missing])
  }

  dependence(): Dependence {
    const { data } = this.#rendering.services
    return joinDependences([
      NOTHING,
      ...this.#dependences,
      ...[...this.#data].map((name) => data.get(name).dependence),
    ])
  }

  /** Returns the frame in which the body is rendered. */
  closed(names: Names): Frame {
    const globals = Object.create(null) as object
    const local: string[] = []
    for (const [root, steps] of this.#inputs.roots) {
      if (this.#frame.isLocal(root)) local.push(root)
      if (this.#isShared(root)) define(globals, root, () => picked(this.#shared(root), steps))
    }
    for (const root of local) names.slot(root)
    const inner = new Frame(names, globals, null)
    for (const root of local)
      inner.give(names.slot(root), { read: () => this.#local(root), frame: this.#frame, path: undefined })
    return inner
  }

  /** True for a value that partials see as well. */
  #isShared(root: string): boolean {
    return root in this.#frame.globals
  }

  #local(root: string): unknown {
    return snapshot(this.#frame.named(root, this.#rendering))
  }

  #shared(root: string): unknown {
    return property(this.#frame.globals, root)
  }

  #localPart(root: string): string | undefined {
    return this.#identified(this.#frame, root, []) ?? this.#valuePart(this.#local(root))
  }

  #sharedPart(root: string, steps: FirstSteps): string | undefined {
    const { data } = this.#rendering.services
    return data.has(root) ? this.#dataPart(root, []) : this.#valuePart(picked(this.#shared(root), steps))
  }

  #valuePart(value: unknown): string | undefined {
    const input = keyedInput(value, this.#inputs.named)
    if (input) this.#dependences.push(input.dependence)
    return input?.key
  }

  #dataPart(name: string, path: readonly (string | number)[]): string {
    const { data } = this.#rendering.services
    const identity = data.identity(name, this.#inputs.named)
    this.#data.add(name)
    return [identity, ...path].join('.')
  }

  /** Identifies data, or an argument that leads to data, without loading it; undefined if it is another value. */
  #identified(frame: Frame, root: string, path: readonly (string | number)[]): string | undefined {
    const { data } = this.#rendering.services
    const lazy = frame.lazy(root)
    if (lazy) {
      const [first, ...rest] = lazy.path ?? []
      return first === undefined ? undefined : this.#identified(lazy.frame, first, [...rest, ...path])
    }
    if (frame.holds(root)) return undefined
    const isThere = frame.isData(root) || root in frame.globals
    return isThere && data.has(root) ? this.#dataPart(root, path) : undefined
  }
}

function define(scope: object, name: string, get: () => unknown): void {
  let value: { found: unknown } | undefined
  Object.defineProperty(scope, name, {
    enumerable: true,
    configurable: true,
    get: (): unknown => (value ??= { found: get() }).found,
  })
}

/** Returns a value with only those properties that are read. */
function picked(value: unknown, steps: FirstSteps): unknown {
  if (steps === 'all' || typeof value !== 'object' || value === null) return value
  return Object.fromEntries([...steps].map((step) => [step, (value as Record<string, unknown>)[step]]))
}

/** Returns the counters of a loop as plain values: they count on while the loop runs. */
const snapshot = (value: unknown): unknown => (value instanceof LoopState ? value.plain() : value)
