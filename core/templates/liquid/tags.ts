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
  type TopLevelToken,
  type ValueToken,
} from 'liquidjs'
import { dependenceOf, joinDependences, NOTHING, type Dependence } from '../../caching/dependence.ts'
import { SafeHtml } from '../../content/html/safe-html.ts'
import { innermost, WordedError } from '../failure.ts'
import { readLifetime } from '../lifetime.ts'
import { FRAGMENT_PROBLEMS } from '../problems.ts'
import { DataNeeded } from '../scope.ts'
import { evaluator } from './direct.ts'
import { openContext, openRender, parsedPartial } from './internals.ts'
import { servicesOf } from './services.ts'

/** Names in every template's scope whose values only change with the definition. */
const CONSTANT = new Set(['blog'])

/** `{% fragment 'aside', vary: post.id, lifetime: '1h' %} … {% endfragment %}`; `vary` may be repeated. */
export class FragmentTag extends Tag {
  readonly fragmentName: string
  /** In milliseconds. */
  readonly lifetime: number
  readonly vary: readonly ValueToken[]
  readonly body: readonly Template[]
  /** Names that the body reads from outside; set once the syntax tree is known. */
  roots: readonly string[] = []

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
    this.body = this.#readBody(remaining, parser)
  }

  #readBody(remaining: TopLevelToken[], parser: Parser): Template[] {
    const body: Template[] = []
    while (remaining.length > 0) {
      const next = remaining.shift() as TopLevelToken
      if (TypeGuards.isTagToken(next) && next.name === 'endfragment') return body
      body.push(parser.parseToken(next, remaining))
    }
    throw new WordedError(FRAGMENT_PROBLEMS['fragment-not-closed'](this.fragmentName))
  }

  override *render(context: Context, emitter: Emitter): Generator<unknown, void, unknown> {
    const { fragments, tracer } = servicesOf(context)
    const needsDependence = fragments.isKeeping || tracer.isRecording
    const vary: string[] = []
    for (const token of this.vary) vary.push(keyText((yield evalToken(token, context)) as unknown))
    const place = placeOf(this.token as TagToken)
    const kept = fragments.take(this.fragmentName, vary, this.lifetime, place)
    if (kept !== undefined) {
      emitter.write(kept)
      return
    }
    if (needsDependence) requireAll(context, this.roots)
    fragments.open()
    let html: string
    try {
      html = (yield this.liquid.renderer.renderTemplates([...this.body], context)) as string
    } catch (error) {
      fragments.abandon()
      throw error
    }
    const dependence = needsDependence ? dependenceOfRoots(context, this.roots) : NOTHING
    fragments.keep(this.fragmentName, vary, this.lifetime, html, dependence, place)
    emitter.write(html)
  }

  *children(): Generator<unknown, Template[]> {
    yield undefined
    return [...this.body]
  }

  *arguments() {
    yield* this.vary
  }
}

function keyText(value: unknown): string {
  if (value === null || value === undefined) return ''
  if (typeof value === 'object') throw new WordedError(FRAGMENT_PROBLEMS['fragment-vary-not-plain']())
  return String(value)
}

/** True for a local of the template or partial: a loop variable, an assignment or an argument. */
const isLocal = (context: Context, name: string): boolean =>
  openContext(context).scopes.some((scope) => name in scope)

/** Requires the data behind several names at once, so that a fragment needs at most one more rendering. */
function requireAll(context: Context, names: readonly string[]): void {
  const { data } = servicesOf(context)
  const missing: string[] = []
  for (const name of names) {
    try {
      if (isLocal(context, name)) context.getSync([name])
      else data.require([name])
    } catch (error) {
      const cause = innermost(error)
      if (!(cause instanceof DataNeeded)) throw error
      missing.push(...cause.names)
    }
  }
  if (missing.length > 0) throw new DataNeeded(missing)
}

/**
 * Returns what the values behind some names depend on. A plain value has no known origin; then the copy depends on
 * everything that the request has loaded, which is coarse but never too little.
 */
function dependenceOfRoots(context: Context, roots: readonly string[]): Dependence {
  const { data } = servicesOf(context)
  return joinDependences(
    roots.flatMap((name) => {
      if (!isLocal(context, name)) {
        if (data.has(name)) return [data.get(name).dependence]
        return CONSTANT.has(name) || !(name in context.globals) ? [] : [data.allLoaded()]
      }
      return [dependenceOf(context.getSync([name])) ?? data.allLoaded()]
    }),
  )
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
  #evaluators: [string, Evaluate][] | undefined;

  override *render(context: Context, emitter: Emitter): Generator<unknown, void, unknown> {
    const { tracer } = servicesOf(context)
    const { file, with: whole, forBinding } = openRender(this)
    if (typeof file !== 'string' || whole !== undefined || forBinding !== undefined) {
      yield super.render(context, emitter)
      return
    }
    tracer.enterTemplate(file, placeOf(this.token as TagToken))
    const child = context.spawn()
    const scope = child.bottom()
    for (const [key, evaluate] of (this.#evaluators ??= this.#makeEvaluators())) {
      let value: { found: unknown } | undefined
      Object.defineProperty(scope, key, {
        enumerable: true,
        configurable: true,
        get: (): unknown => (value ??= { found: evaluate(context) }).found,
        set: (found: unknown) => (value = { found }),
      })
    }
    yield this.liquid.renderer.renderTemplates(parsedPartial(this.liquid, file), child, emitter)
    tracer.leaveTemplate()
  }

  /** An argument without a value is true, as in liquidjs. */
  #makeEvaluators(): [string, Evaluate][] {
    return Object.entries(openRender(this).hash.hash).map(([key, token]) => [
      key,
      token === undefined ? () => true : evaluator(token),
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
