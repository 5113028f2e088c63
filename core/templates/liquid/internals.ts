/** Parts of what liquidjs parsed that its types keep private or too narrow. They are read, never changed. */
import type {
  AssignTag,
  CaseTag,
  CycleTag,
  DecrementTag,
  EchoTag,
  ForTag,
  IfTag,
  IncrementTag,
  LayoutTag,
  RawTag,
  RenderTag,
  TablerowTag,
  Template,
  Token,
  UnlessTag,
  Value,
} from 'liquidjs'

const open =
  <Open>() =>
  (part: object): Open =>
    part as Open

type Hash = Readonly<Record<string, Token | undefined>>

/** An argument of a filter; a pair if it has a name. */
export type FilterArgument = Token | [string, Token]

export const openFilter: (filter: object) => { name: string; args: FilterArgument[] } = open()

export interface Binding {
  value: Token
  alias?: string
}

export const openRender: (tag: RenderTag) => {
  /** A text, unless it is computed. */
  file: unknown
  hash: { hash: Hash }
  with?: Binding
  forBinding?: Binding
} = open()

export const openLayout: (tag: LayoutTag) => {
  /** A text, unless it is computed; undefined for none. */
  file: unknown
  args: { hash: Hash }
  templates: Template[]
} = open()

export const openAssign: (tag: AssignTag) => { key: string; value: Value } = open()

export const openEcho: (tag: EchoTag) => { value?: Value } = open()

export const openCycle: (tag: CycleTag) => {
  group?: Token
  candidates: (Token & { initial: { postfix: Token[] }; filters: object[] })[]
} = open()

export const openCounter: (tag: IncrementTag | DecrementTag) => { variable: string } = open()

export const openRaw: (tag: RawTag) => { tokens: Token[] } = open()

export const openLoop: (tag: ForTag | TablerowTag) => {
  variable: string
  collection: Token
  /** The modifiers of `for`. */
  hash?: { hash: Hash }
  /** The modifiers of `tablerow`. */
  args?: { hash: Hash }
  templates: Template[]
  elseTemplates?: Template[]
} = open()

export const openBranches = (
  tag: IfTag | UnlessTag,
): { branches: { value: Value; templates: Template[] }[]; otherwise: Template[] } => otherwiseOf(tag)

export const openCase = (
  tag: CaseTag,
): { branches: { values: Token[]; templates: Template[] }[]; otherwise: Template[] } => otherwiseOf(tag)

function otherwiseOf<Branch>(tag: object): { branches: Branch[]; otherwise: Template[] } {
  const { branches, elseTemplates } = tag as { branches: Branch[]; elseTemplates?: Template[] }
  return { branches, otherwise: elseTemplates ?? [] }
}
