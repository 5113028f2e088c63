/** Our tags: `fragment` caches a part of a page; `render`, `layout` and `capture` differ in a detail from liquidjs's. */
import {
  CaptureTag,
  evalToken,
  LayoutTag,
  RenderTag,
  Tag,
  TypeGuards,
  type Context,
  type Emitter,
  type Liquid,
  type Parser,
  type TagToken,
  type Template,
  type Token,
  type TopLevelToken,
  type ValueToken,
} from 'liquidjs'
import { NOTHING, type Dependence } from '../../caching/dependence.ts'
import type { FragmentRequest } from '../../caching/session.ts'
import type { DefinitionParts } from '../../caching/store.ts'
import { SafeHtml } from '../../content/html/safe-html.ts'
import { hashOf } from '../../shapes/hash.ts'
import { WordedError } from '../failure.ts'
import type { FragmentInputs } from '../fragment-inputs.ts'
import { readLifetime } from '../lifetime.ts'
import { FRAGMENT_PROBLEMS } from '../problems.ts'
import { fragmentPart, type DefinitionState } from '../scope.ts'
import { evaluator } from './direct.ts'
import { FragmentScope, noteLazy } from './fragment-scope.ts'
import { openRender, parsedPartial } from './internals.ts'
import { servicesOf } from './services.ts'

/** `{% fragment 'aside', vary: post.id, lifetime: '1h' %} … {% endfragment %}`; `vary` may be repeated. */
export class FragmentTag extends Tag {
  readonly fragmentName: string
  /** In milliseconds. */
  readonly lifetime: number
  /** Values that are added to the key. They never replace what the body reads. */
  readonly vary: readonly ValueToken[]
  readonly body: readonly Template[]
  /** Identifies the text of the body. */
  readonly bodyHash: string
  /** What the body reads; set once the syntax trees of all templates are known. */
  inputs: FragmentInputs | undefined
  /** The state of the definition's parts that the body uses. They are the same for all renderings of a definition. */
  readonly #parts = new WeakMap<DefinitionState, { parts: DefinitionParts; hash: string }>()

  constructor(token: TagToken, remaining: TopLevelToken[], liquid: Liquid, parser: Parser) {
    super(token, remaining, liquid)
    const name = this.tokenizer.readValue()
    if (!name || !TypeGuards.isQuotedToken(name) || !/^[a-z][a-z0-9-]{0,59}$/.test(name.content))
      throw new WordedError(FRAGMENT_PROBLEMS['fragment-name-invalid']())
    this.fragmentName = name.content
    const vary: ValueToken[] = []
    let lifetime: number | undefined
    for (const hash of this.tokenizer.readHashes()) {
      const key = hash.name.content
      if (key === 'vary' && hash.value) vary.push(hash.value as ValueToken)
      else if (key === 'lifetime' && hash.value && TypeGuards.isQuotedToken(hash.value)) {
        const { content } = hash.value
        lifetime = readLifetime(content)
        if (lifetime === undefined)
          throw new WordedError(FRAGMENT_PROBLEMS['fragment-lifetime-invalid'](content))
      } else throw new WordedError(FRAGMENT_PROBLEMS['fragment-argument-unknown'](key))
    }
    if (lifetime === undefined) throw new WordedError(FRAGMENT_PROBLEMS['fragment-lifetime-missing']())
    this.lifetime = lifetime
    this.vary = vary
    const { body, text } = this.#readBody(token, remaining, parser)
    this.body = body
    this.bodyHash = hashOf(text)
  }

  #readBody(token: TagToken, remaining: TopLevelToken[], parser: Parser): { body: Template[]; text: string } {
    const body: Template[] = []
    while (remaining.length > 0) {
      const next = remaining.shift() as TopLevelToken
      if (TypeGuards.isTagToken(next) && next.name === 'endfragment')
        return { body, text: token.input.slice(token.end, next.begin) }
      body.push(parser.parseToken(next, remaining))
    }
    throw new WordedError(FRAGMENT_PROBLEMS['fragment-not-closed'](this.fragmentName))
  }

  override *render(context: Context, emitter: Emitter): Generator<unknown, void, unknown> {
    const services = servicesOf(context)
    const { fragments, tracer } = services
    const inputs = this.inputs
    if (!inputs) throw new Error(`Fragment “${this.fragmentName}” was not analysed.`)
    const scope = new FragmentScope(context, inputs)
    const needsKey = fragments.isKeeping || tracer.isRecording
    const vary: string[] = []
    for (const token of this.vary) vary.push(keyText((yield evalToken(token, context)) as unknown))
    const { parts, hash } = needsKey ? this.#partsIn(services.definition) : NO_PARTS
    const key = needsKey ? scope.key() : undefined
    const request: FragmentRequest = {
      name: this.fragmentName,
      key: key === undefined ? undefined : [`${this.fragmentName}@${hash}`, ...vary, ...key].join(' '),
      lifetime: this.lifetime,
      refresh: services.refreshOf(this.fragmentName),
      ...placeOf(this.token as TagToken),
    }
    const kept = fragments.take(request)
    if (kept !== undefined) {
      emitter.write(kept)
      return
    }
    if (needsKey) scope.requireData()
    fragments.open()
    const began = services.processorTime()
    let html: string
    try {
      if (inputs.readsClock) fragments.limit(0)
      html = (yield this.liquid.renderer.renderTemplates([...this.body], scope.closed())) as string
    } catch (error) {
      fragments.abandon()
      throw error
    }
    const dependence = needsKey ? scope.dependence() : NOTHING
    fragments.keep(
      request,
      html,
      dependence,
      new Map([...parts, ...queriesOf(dependence, services.definition)]),
      services.processorTime() - began,
    )
    emitter.write(html)
  }

  #partsIn(definition: DefinitionState): { parts: DefinitionParts; hash: string } {
    let known = this.#parts.get(definition)
    if (!known) {
      const parts = new Map<string, string>()
      for (const part of partsOf(this.fragmentName, this.bodyHash, this.inputs))
        parts.set(part, definition.state(part) ?? '')
      known = { parts, hash: hashOf(JSON.stringify([...parts])) }
      this.#parts.set(definition, known)
    }
    return known
  }

  *children(): Generator<unknown, Template[]> {
    yield undefined
    return [...this.body]
  }

  *arguments() {
    yield* this.vary
  }
}

const NO_PARTS = { parts: new Map<string, string>(), hash: '' }

/** Filters whose results depend on a part of the definition. */
const PART_OF_FILTER: Readonly<Record<string, string>> = {
  markdown: 'allowed HTML',
  date: 'time zone',
  ago: 'language',
  reading_minutes: 'language',
}

/** Yields the queries whose results a fragment shows. */
function* queriesOf({ sets }: Dependence, definition: DefinitionState): Generator<[string, string]> {
  for (const set of sets.values()) {
    const state = set.kind === 'list' ? definition.state(`query ${set.name}`) : undefined
    if (set.kind === 'list' && state !== undefined) yield [`query ${set.name}`, state]
  }
}

/** Yields the parts of the definition that a fragment uses. The queries of its data are parts of its key by themselves. */
function* partsOf(name: string, bodyHash: string, inputs: FragmentInputs | undefined): Generator<string> {
  yield fragmentPart(name, bodyHash)
  yield `fragment-rule ${name}`
  if (!inputs) return
  for (const template of inputs.templates) yield `template ${template}`
  if (inputs.routes === 'all') yield 'routes'
  else for (const route of inputs.routes) yield `route ${route}`
  if (inputs.assets === 'all') yield 'assets'
  else for (const asset of inputs.assets) yield `asset ${asset}`
  for (const filter of inputs.filters) if (PART_OF_FILTER[filter]) yield PART_OF_FILTER[filter]
  const blog = inputs.roots.get('blog')
  if (blog !== undefined) for (const setting of blog === 'all' ? ['*'] : blog) yield `setting ${setting}`
}

function keyText(value: unknown): string {
  if (value === null || value === undefined) return ''
  if (typeof value === 'object') throw new WordedError(FRAGMENT_PROBLEMS['fragment-vary-not-plain']())
  return encodeURIComponent(String(value))
}

interface Place {
  file: string
  line: number
}
const places = new WeakMap<TagToken, Place>()

/** Returns the place of a tag. liquidjs finds the line by reading the text before it, so the place is remembered. */
function placeOf(token: TagToken): Place {
  let place = places.get(token)
  if (!place) places.set(token, (place = { file: token.file ?? '', line: token.getPosition()[0] ?? 0 }))
  return place
}

type Evaluate = (context: Context) => unknown

/**
 * liquidjs's `render`, with arguments that are evaluated when the partial reads them: what only a fragment of the partial
 * reads is not loaded while its copy is at hand.
 */
export class LazyRender extends RenderTag {
  #evaluators: [string, Evaluate, Token | undefined][] | undefined
  #partial: Template[] | undefined;

  override *render(context: Context, emitter: Emitter): Generator<unknown, void, unknown> {
    const { tracer } = servicesOf(context)
    const { file, with: whole, forBinding } = openRender(this)
    if (typeof file !== 'string' || whole !== undefined || forBinding !== undefined) {
      if (forBinding && TypeGuards.isRangeToken(forBinding.value)) evaluator(forBinding.value)(context)
      yield super.render(context, emitter)
      return
    }
    tracer.enterTemplate(file, placeOf(this.token as TagToken))
    const child = context.spawn()
    const scope = child.bottom()
    for (const [key, evaluate, token] of (this.#evaluators ??= this.#makeEvaluators())) {
      noteLazy(scope, key, { context, token })
      let value: { found: unknown } | undefined
      Object.defineProperty(scope, key, {
        enumerable: true,
        configurable: true,
        get: (): unknown => (value ??= { found: evaluate(context) }).found,
        set: (found: unknown) => (value = { found }),
      })
    }
    this.#partial ??= parsedPartial(this.liquid, file)
    yield this.liquid.renderer.renderTemplates(this.#partial, child, emitter)
    tracer.leaveTemplate()
  }

  /** An argument without a value is true, as in liquidjs. */
  #makeEvaluators(): [string, Evaluate, Token | undefined][] {
    return Object.entries(openRender(this).hash.hash).map(([key, token]) => [
      key,
      token === undefined ? () => true : evaluator(token),
      token,
    ])
  }
}

/** liquidjs's `layout`, reported to the tracer. */
export class TracedLayout extends LayoutTag {
  override render(context: Context, emitter: Emitter): Generator<unknown, unknown, unknown> {
    const { tracer } = servicesOf(context)
    return tracer.isRecording ? this.#traced(context, emitter) : super.render(context, emitter)
  }
  *#traced(context: Context, emitter: Emitter): Generator<unknown, unknown, unknown> {
    const { tracer } = servicesOf(context)
    tracer.enterTemplate(this.partialScope()?.name ?? '', placeOf(this.token as TagToken))
    yield super.render(context, emitter)
    tracer.leaveTemplate()
    return undefined
  }
}

/** liquidjs's `capture`. What it holds was escaped when it was captured, so it is printed without escaping. */
export class SafeCapture extends CaptureTag {
  override *render(context: Context): Generator<unknown, void, string> {
    yield super.render(context)
    const bottom = context.bottom() as Record<string, unknown>
    bottom[this.variable] = new SafeHtml(String(bottom[this.variable] ?? ''))
  }
}
