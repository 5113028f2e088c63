/**
 * Edits documents of a definition and leaves the rest of the text as it was written: moves, adds and removes routes,
 * adds conditions and indexes. The result looks as if its author had typed it.
 */
import { isMap, isScalar, isSeq, parse, parseDocument, stringify, type Node, type YAMLSeq } from 'yaml'
import type { Route } from '../shapes/schemas.ts'

/** One route's text with the comments and blank lines before it. */
interface Block {
  name: string
  text: string
}

interface RouteText {
  /** The text before the first route: the file's own comment. */
  header: string
  blocks: Block[]
}

const startOf = (node: unknown): number => (node as Node | null)?.range?.[0] ?? 0

/** Splits routes.yaml into its routes. Returns undefined if it is not a list with one route below the other. */
function split(text: string): RouteText | undefined {
  const { contents, errors } = parseDocument(text)
  if (errors.length > 0) return undefined
  if (contents === null || (isSeq(contents) && contents.items.length === 0))
    return { header: isSeq(contents) ? '' : text, blocks: [] }
  if (!isSeq(contents) || contents.flow === true) return undefined
  const starts = contents.items.map((item) => text.lastIndexOf('\n', startOf(item)) + 1)
  const ends = starts.map((_, index) => {
    const next = starts[index + 1]
    return next === undefined ? text.length : endOfContent(text, next)
  })
  const blocks = contents.items.map((item, index): Block => {
    const name = isMap(item) ? item.get('name') : undefined
    const from = index === 0 ? (starts[0] ?? 0) : (ends[index - 1] ?? 0)
    return { name: typeof name === 'string' ? name : '', text: text.slice(from, ends[index]) }
  })
  return { header: text.slice(0, starts[0]), blocks }
}

/** Returns where the content before an item ends. Comments and blank lines above an item belong to it. */
function endOfContent(text: string, itemStart: number): number {
  const before = text.slice(0, itemStart).split('\n')
  before.pop()
  let lines = before.length
  while (lines > 0 && /^\s*(#.*)?$/.test(before[lines - 1] ?? '')) lines--
  return before.slice(0, lines).join('\n').length + 1
}

function join({ header, blocks }: RouteText): string {
  return blocks.reduce((text, block, index) => {
    const own = index === 0 ? block.text.replace(/^\n+/, '') : block.text
    const separated = index > 0 && !/^\s*\n/.test(own) ? `\n${own}` : own
    return text + (separated.endsWith('\n') ? separated : `${separated}\n`)
  }, header)
}

/**
 * Moves a route before another one.
 * @returns the new text, or undefined if one of them does not exist
 */
export function moveRoute(text: string, name: string, before: string): string | undefined {
  const all = split(text)
  const moved = all?.blocks.find((one) => one.name === name)
  if (!all || !moved || name === before || !all.blocks.some((one) => one.name === before)) return undefined
  const rest = all.blocks.filter((one) => one !== moved)
  const at = rest.findIndex((one) => one.name === before)
  return join({ ...all, blocks: [...rest.slice(0, at), moved, ...rest.slice(at)] })
}

/** Puts all routes in a new order. Returns undefined unless every route is named once. */
export function orderRoutes(text: string, names: readonly string[]): string | undefined {
  const all = split(text)
  if (!all || names.length !== all.blocks.length || new Set(names).size !== names.length) return undefined
  const blocks = names.flatMap((name) => all.blocks.find((one) => one.name === name) ?? [])
  return blocks.length === names.length ? join({ ...all, blocks }) : undefined
}

export function removeRoute(text: string, name: string): string | undefined {
  const all = split(text)
  if (!all?.blocks.some((one) => one.name === name)) return undefined
  const blocks = all.blocks.filter((one) => one.name !== name)
  return blocks.length === 0 ? `${all.header}[]\n` : join({ ...all, blocks })
}

/** Formats a route as YAML, with short maps on one line. */
export function routeText(route: Route): string {
  const lines = Object.entries(route).flatMap(([key, value]) => {
    if (value === undefined) return []
    if (key !== 'data') return [`${key}: ${inline(value)}`]
    return ['data:', ...Object.entries(value as object).map(([name, entry]) => `  ${name}: ${inline(entry)}`)]
  })
  return `- ${lines.join('\n  ')}\n`
}

const inline = (value: unknown): string => {
  if (typeof value === 'object' && value !== null)
    return `{ ${Object.entries(value)
      .map(([key, one]) => `${key}: ${inline(one)}`)
      .join(', ')} }`
  return stringify(value, { lineWidth: 0 }).trim()
}

/**
 * Adds a route.
 * @param before the route that will follow it; without one, it is added at the end
 */
export function addRoute(text: string, route: Route, before?: string): string | undefined {
  const all = split(text)
  if (!all) return undefined
  const block = { name: route.name, text: `\n${routeText(route)}` }
  const at = before === undefined ? all.blocks.length : all.blocks.findIndex((one) => one.name === before)
  if (at === -1) return undefined
  const header = all.blocks.length === 0 ? all.header.replace(/^\s*\[\s*\]\s*$/m, '') : all.header
  return join({ header, blocks: [...all.blocks.slice(0, at), block, ...all.blocks.slice(at)] })
}

/**
 * Rewrites a route and keeps the comments above it.
 * @param change gets the route as it is declared, which may have less data than the compiled one
 */
export function replaceRoute(
  text: string,
  name: string,
  change: (declared: Route) => Route,
): string | undefined {
  const all = split(text)
  const old = all?.blocks.find((one) => one.name === name)
  if (!all || !old) return undefined
  const [declared] = parse(old.text) as [Route]
  const route = change(declared)
  const leading = /^(?:\s*(?:#.*)?\n)*/.exec(old.text)?.[0] ?? ''
  const blocks = all.blocks.map((one) =>
    one === old ? { name: route.name, text: leading + routeText(route) } : one,
  )
  return join({ ...all, blocks })
}

/** Changes a route's path in place. */
export function setRoutePath(text: string, name: string, path: string): string | undefined {
  const { contents, errors } = parseDocument(text)
  if (errors.length > 0 || !isSeq(contents)) return undefined
  const item = contents.items.find((one) => isMap(one) && (one.get('name') as unknown) === name)
  const node = isMap(item) ? item.get('path', true) : undefined
  if (!isScalar(node) || !node.range) return undefined
  const [start, end] = node.range
  return text.slice(0, start) + inline(path) + text.slice(end)
}

/** Adds a named condition to a query, before the others. */
export function addCondition(text: string, condition: string): string | undefined {
  const { contents, errors } = parseDocument(text)
  if (errors.length > 0 || !isMap(contents)) return undefined
  const where = contents.get('where', true)
  if (isSeq(where)) return addToSequence(text, where, condition)
  if (where !== undefined) return undefined
  const after = contents.items.findLast((pair) =>
    /^(from|with)$/.test(String((pair.key as { value?: unknown }).value)),
  )
  const end = (after?.value as Node | undefined)?.range?.[1]
  if (end === undefined) return undefined
  const line = text.indexOf('\n', end)
  const at = line === -1 ? text.length : line
  return `${text.slice(0, at)}\nwhere: [${condition}]${text.slice(at)}`
}

function addToSequence(text: string, sequence: YAMLSeq, entry: string): string | undefined {
  const [first] = sequence.items
  const start = startOf(sequence)
  if (sequence.flow === true)
    return `${text.slice(0, start + 1)}${entry}${first === undefined ? '' : ', '}${text.slice(start + 1)}`
  if (first === undefined) return undefined
  const line = text.lastIndexOf('\n', startOf(first)) + 1
  const indent = /^\s*/.exec(text.slice(line))?.[0] ?? ''
  return `${text.slice(0, line)}${indent}- ${entry}\n${text.slice(line)}`
}

/**
 * Adds shared data to blog.yaml.
 * @param data name in templates → query
 * @returns undefined if the text is not a map
 */
export function addSharedData(text: string, data: Readonly<Record<string, unknown>>): string | undefined {
  const document = parseDocument(text)
  if (document.errors.length > 0 || !isMap(document.contents)) return undefined
  for (const [name, value] of Object.entries(data))
    if (!document.hasIn(['data', name])) document.setIn(['data', name], value)
  return document.toString({ lineWidth: 0, flowCollectionPadding: false })
}

/**
 * Writes the restrictions of the allow-list of HTML into blog.yaml. Defaults are not written.
 * @returns undefined if the text is not a map
 */
export function setHtmlRule(
  text: string,
  { typed, without }: { typed: boolean; without: readonly string[] },
): string | undefined {
  const document = parseDocument(text)
  if (document.errors.length > 0 || !isMap(document.contents)) return undefined
  const rule = { ...(typed ? {} : { typed }), ...(without.length > 0 ? { without: [...without] } : {}) }
  if (Object.keys(rule).length === 0) document.delete('html')
  else {
    document.set('html', document.createNode(rule))
    const list = document.getIn(['html', 'without'])
    if (isSeq(list)) list.flow = true
  }
  return document.toString({ lineWidth: 0, flowCollectionPadding: false })
}

/** Adds an index to indexes.yaml, which may be empty. Returns undefined if its text is not a list. */
export function addIndex(
  text: string,
  { name, on, keys }: { name: string; on: string; keys: readonly string[] },
): string | undefined {
  const { contents, errors } = parseDocument(text)
  if (errors.length > 0 || (contents !== null && !isSeq(contents))) return undefined
  const line = `- { name: ${inline(name)}, on: ${inline(on)}, keys: [${keys.map(inline).join(', ')}] }\n`
  if (contents === null || contents.items.length === 0)
    return `${text.replace(/^\s*\[\s*\]\s*$/m, '')}${line}`
  if (contents.flow) return undefined
  return `${text.replace(/\n*$/, '\n')}${line}`
}
