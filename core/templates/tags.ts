/** Our tags: `fragment` keeps a part of a page; `render` and `layout` tell a watcher what they render. */
import {
  CaptureTag,
  evalToken,
  LayoutTag,
  RenderTag,
  Tag,
  TypeGuards,
  analyzeSync,
  toValueSync,
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
import { dependenceOf, joinDependences, NOTHING, type Dependence } from '../caching/dependence.ts'
import { SafeHtml } from '../content/html/safe-html.ts'
import { evaluator } from './direct.ts'
import { readLifetime } from './lifetime.ts'
import { DataNeeded, innermost, servicesOf } from './scope.ts'

/** Names in every template's scope whose values do not change between requests of one definition. */
const CONSTANT = new Set(['blog'])

/** While true, analysis sees a fragment's key but not its body: what must be at hand before rendering begins. */
let bodiesHidden = false
export function withBodiesHidden<T>(work: () => T): T {
  const before = bodiesHidden
  bodiesHidden = true
  try {
    return work()
  } finally {
    bodiesHidden = before
  }
}

const namesOutsideBodies = new WeakMap<readonly Template[], ReadonlySet<string>>()

/**
 * Names that a partial reads from what it is given, fragments' bodies aside. Each partial is read once: reading one
 * leads to those it renders, and from each of them to others again.
 */
function readOutsideBodies(templates: Template[]): ReadonlySet<string> {
  let names = namesOutsideBodies.get(templates)
  if (!names)
    namesOutsideBodies.set(
      templates,
      (names = withBodiesHidden(
        () => new Set(Object.keys(analyzeSync(templates, { partials: true }).globals)),
      )),
    )
  return names
}

/** `{% fragment 'aside', vary: post.id, lifetime: '1h' %} … {% endfragment %}`; `vary` may be given several times. */
export class FragmentTag extends Tag {
  readonly fragmentName: string
  readonly lifetime: number
  readonly #vary: ValueToken[] = []
  readonly #body: Template[] = []
  #roots: string[] | undefined

  constructor(token: TagToken, remaining: TopLevelToken[], liquid: Liquid, parser: Parser) {
    super(token, remaining, liquid)
    const name = this.tokenizer.readValue()
    if (!name || !TypeGuards.isQuotedToken(name) || !/^[a-z][a-z0-9-]{0,59}$/.test(name.content)) {
      throw new Error('a fragment needs a name in quotes: lower-case letters, digits and hyphens')
    }
    this.fragmentName = name.content
    let lifetime: number | undefined
    for (const hash of this.tokenizer.readHashes()) {
      const key = hash.name.content
      if (key === 'vary' && hash.value) this.#vary.push(hash.value as ValueToken)
      else if (key === 'lifetime' && hash.value && TypeGuards.isQuotedToken(hash.value)) {
        lifetime = readLifetime(hash.value.content)
        if (lifetime === undefined)
          throw new Error(`“${hash.value.content}” is no lifetime; write 45s, 30m, 1h or 7d`)
      } else throw new Error(`a fragment knows “vary: value” and “lifetime: '1h'”, not “${key}”`)
    }
    if (lifetime === undefined) throw new Error("a fragment needs a lifetime, e.g. lifetime: '1h'")
    this.lifetime = lifetime
    while (remaining.length > 0) {
      const next = remaining.shift() as TopLevelToken
      if (TypeGuards.isTagToken(next) && next.name === 'endfragment') return
      this.#body.push(parser.parseToken(next, remaining))
    }
    throw new Error(`fragment “${this.fragmentName}” is not closed with {% endfragment %}`)
  }

  get varies(): boolean {
    return this.#vary.length > 0
  }

  /**
   * Names the body reads although their values differ between readers or requests: a copy would show one reader's to
   * another. `request` may be read where `vary` names a part of it.
   */
  readsOfOneReader(): string[] {
    const varies = this.#vary.some((token) => /^request\b/.test(token.getText()))
    return (this.#roots ??= this.#readRoots()).filter(
      (name) => /^(form|visitor)$/.test(name) || (name === 'request' && !varies),
    )
  }

  override *render(context: Context, emitter: Emitter): Generator<unknown, void, unknown> {
    const { fragments, trace } = servicesOf(context)
    const needsDependence = fragments.isKeeping || trace !== undefined
    const vary: string[] = []
    for (const token of this.#vary) vary.push(varyText((yield evalToken(token, context)) as unknown))
    const place = placeOf(this.token as TagToken)
    const kept = fragments.take(this.fragmentName, vary, this.lifetime, place)
    if (kept !== undefined) {
      emitter.write(kept)
      return
    }
    const roots = (this.#roots ??= this.#readRoots())
    if (needsDependence) requireAll(context, roots)
    fragments.open()
    let html: string
    try {
      html = (yield this.liquid.renderer.renderTemplates(this.#body, context)) as string
    } catch (error) {
      fragments.abandon()
      throw error
    }
    fragments.keep(
      this.fragmentName,
      vary,
      this.lifetime,
      html,
      needsDependence ? dependenceOfRoots(context, roots) : NOTHING,
      place,
    )
    emitter.write(html)
  }

  *children(): Generator<unknown, Template[]> {
    yield undefined
    return bodiesHidden ? [] : this.#body
  }

  *arguments() {
    yield* this.#vary
  }

  /** Names that the body reads from outside itself. */
  #readRoots(): string[] {
    return Object.keys(analyzeSync(this.#body, { partials: true }).globals)
  }
}

function varyText(value: unknown): string {
  if (value === null || value === undefined) return ''
  if (typeof value === 'object')
    throw new Error('vary needs a plain value such as post.id, not a whole row or list')
  return String(value)
}

/** True when a name is a local of the template or partial (loop variable, assignment, argument). */
function isLocal(context: Context, name: string): boolean {
  const scopes = (context as unknown as { scopes: object[] }).scopes
  return scopes.some((scope) => name in scope)
}

/** Asks at once for all data behind the names, so that a part that must be made costs one more round at most. */
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
 * What the values behind the names depend on. A plain value carries no origin: then the copy depends on everything
 * the request has read, which is coarse but never too little.
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

/** Where a tag stands. To find its line, the text before it is read: once. */
function placeOf(token: TagToken): Place {
  let place = places.get(token)
  if (!place) places.set(token, (place = { file: token.file ?? '', line: token.getPosition()[0] ?? 0 }))
  return place
}

/**
 * liquidjs's `render` with arguments that are evaluated when the partial reads them: what only a kept part of the
 * partial reads is not asked for while its copy is at hand. Also tells a watcher what it renders.
 */
export class LazyRender extends RenderTag {
  override *render(context: Context, emitter: Emitter): Generator<unknown, void, unknown> {
    const { trace } = servicesOf(context)
    const name = this.#name
    if (name === undefined) {
      yield super.render(context, emitter)
      return
    }
    trace?.enter(name, placeOf(this.token as TagToken))
    const child = context.spawn()
    const scope = child.bottom()
    for (const [key, evaluate] of this.#arguments) {
      let value: { found: unknown } | undefined
      const get = (): unknown => (value ??= { found: evaluate(context) }).found
      Object.defineProperty(scope, key, {
        enumerable: true,
        configurable: true,
        get,
        set: (found: unknown) => (value = { found }),
      })
    }
    const templates = toValueSync(super.children(true, true)) as Template[]
    yield this.liquid.renderer.renderTemplates(templates, child, emitter)
    trace?.leave()
  }

  /** How each argument is evaluated; a name alone is true, as in liquidjs. */
  get #arguments(): [string, (context: Context) => unknown][] {
    return (this.#evaluators ??= this.#argumentTokens.map(([key, token]) => [
      key,
      token === undefined ? () => true : evaluator(token),
    ]))
  }
  #evaluators: [string, (context: Context) => unknown][] | undefined;

  override *arguments(): Generator<ValueToken, void, unknown> {
    if (!bodiesHidden || this.#name === undefined) {
      yield* super.arguments() as Generator<ValueToken>
      return
    }
    const read = readOutsideBodies(toValueSync(super.children(true, true)) as Template[])
    for (const [key, token] of this.#argumentTokens)
      if (token !== undefined && read.has(key)) yield token as ValueToken
  }

  /** The partial's name, where plain arguments are all it is given; undefined with liquidjs's `for` and `with`. */
  get #name(): string | undefined {
    const own = this as unknown as { with?: unknown; forBinding?: unknown }
    return own.with === undefined && own.forBinding === undefined ? this.partialScope()?.name : undefined
  }

  get #argumentTokens(): [string, Token | undefined][] {
    return Object.entries(
      (this as unknown as { hash: { hash: Record<string, Token | undefined> } }).hash.hash,
    )
  }
}

/** liquidjs's `layout`, likewise. */
export class TracedLayout extends LayoutTag {
  override render(context: Context, emitter: Emitter): Generator<unknown, unknown, unknown> {
    const { trace } = servicesOf(context)
    return trace ? this.#traced(context, emitter) : super.render(context, emitter)
  }
  *#traced(context: Context, emitter: Emitter): Generator<unknown, unknown, unknown> {
    const { trace } = servicesOf(context)
    trace?.enter(this.partialScope()?.name ?? '', placeOf(this.token as TagToken))
    yield super.render(context, emitter)
    trace?.leave()
    return undefined
  }
}

/** liquidjs's `capture`; what it holds was escaped when it was captured, so it prints as it is. */
export class SafeCapture extends CaptureTag {
  override *render(context: Context): Generator<unknown, void, string> {
    yield super.render(context)
    const bottom = context.bottom() as Record<string, unknown>
    bottom[this.variable] = new SafeHtml(String(bottom[this.variable] ?? ''))
  }
}
