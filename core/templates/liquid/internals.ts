/** Access to parts of liquidjs that its types keep private. Only this file casts to them. */
import type {
  AssignTag,
  Context,
  Emitter,
  Filter,
  ForTag,
  LayoutTag,
  Liquid,
  RenderTag,
  TablerowTag,
  Template,
  Token,
  ValueToken,
} from 'liquidjs'
import { toValueSync, Value } from 'liquidjs'
import { WordedError } from '../failure.ts'
import { TEMPLATE_PROBLEMS } from '../problems.ts'

type Operators = Record<string, (left: unknown, right: unknown, context: Context) => unknown>

interface OpenContext {
  scopes: object[]
  environments: object
  findScope(key: string): object
  readProperty(value: unknown, key: string | number): unknown
  opts: { operators: Operators }
  renderLimit: object
  breakCalled: boolean
  continueCalled: boolean
}
export const openContext = (context: Context): OpenContext => context as unknown as OpenContext

export type FilterArgument = Token | [string, Token]

interface OpenFilter {
  name: string
  handler: (this: unknown, value: unknown, ...words: unknown[]) => unknown
  args: FilterArgument[]
  token: Token
  liquid: unknown
}
export const openFilter = (filter: Filter): OpenFilter => filter as unknown as OpenFilter

export interface Binding {
  value: ValueToken
  alias?: string
}

interface OpenRender {
  file: unknown
  hash: { hash: Record<string, Token | undefined> }
  with?: Binding
  forBinding?: Binding
}
export const openRender = (tag: RenderTag): OpenRender => tag as unknown as OpenRender

interface OpenLayout {
  file: unknown
  args: { hash: Record<string, Token | undefined> }
  templates: Template[]
}
export const openLayout = (tag: LayoutTag): OpenLayout => tag as unknown as OpenLayout

export const openAssign = (tag: AssignTag): { key: string; value: Value } =>
  tag as unknown as { key: string; value: Value }

interface OpenLoop {
  variable: string
  collection: Token
  templates: Template[]
  elseTemplates?: Template[]
}
export const openLoop = (tag: ForTag | TablerowTag): OpenLoop => tag as unknown as OpenLoop

/** The branches of `if`, `unless` and `case`, whose types differ between liquidjs's declarations and its code. */
interface OpenBranch {
  value?: Value
  values?: Token[]
  templates: Template[]
}
export const openBranches = (tag: object): { branches: OpenBranch[]; otherwise: Template[] } => {
  const { branches, elseTemplates } = tag as { branches: OpenBranch[]; elseTemplates?: Template[] }
  return { branches, otherwise: elseTemplates ?? [] }
}

/** Returns the parsed partial that liquidjs keeps for rendering; a page's own templates are what `parse` returned. */
export function parsedPartial(engine: Liquid, name: string): Template[] {
  const open = engine as unknown as Record<
    '_parsePartialFile' | '_parseLayoutFile',
    (name: string, sync: boolean) => Generator<unknown, Template[]>
  >
  const isLayout = name.startsWith('layouts/')
  return toValueSync(open[isLayout ? '_parseLayoutFile' : '_parsePartialFile'](name, true))
}

/** Returns the templates nested in a tag, its partials not followed. */
export const childrenOf = (template: Template): Template[] =>
  template.children
    ? toValueSync(template.children.call(template, false, true) as Generator<unknown, Template[]>)
    : []

/** Returns the values that are kept anywhere in a tag, for preparation in place. */
export function* valuesIn(template: Template): Generator<Value> {
  for (const part of Object.values(template).flat() as unknown[])
    if (part instanceof Value) yield part
    else if (typeof part === 'object' && part !== null && 'value' in part && part.value instanceof Value)
      yield part.value
}

/** Replaces a method of one object of liquidjs. */
export const replaceMethod = (target: object, name: string, method: unknown): void => {
  Object.defineProperty(target, name, { value: method, configurable: true })
}

/** Longest page in characters. */
export const PAGE_LIMIT = 10_000_000

/** A text that is built up: what rendering needs of an emitter. */
export class TextEmitter {
  buffer = ''
  readonly #asText: (value: unknown) => string

  constructor(asText: (value: unknown) => string) {
    this.#asText = asText
  }

  /** @throws if the text becomes longer than a page can be */
  write(value: unknown): void {
    this.buffer += this.#asText(value)
    if (this.buffer.length > PAGE_LIMIT)
      throw new WordedError(TEMPLATE_PROBLEMS['template-page-too-long'](PAGE_LIMIT))
  }
}
export const asEmitter = (emitter: TextEmitter): Emitter => emitter as unknown as Emitter
export const bufferOf = (emitter: Emitter): string => (emitter as unknown as TextEmitter).buffer
