/** Completes what a template may name at an offset, by type: values, fields, partials, arguments, routes, blocks, classes. */
import { openTags, type Choice, type Completion } from '../templates/authoring/complete.ts'
import { insideBraces } from '../templates/authoring/under-cursor.ts'
import { namesRead } from '../templates/names.ts'
import { SHARED_NAMES } from '../templates/shared-names.ts'
import type { TemplateNode } from '../templates/tree.ts'
import { observeTypes } from '../templates/types/analyse.ts'
import type { TypedPage } from '../templates/types/typed-page.ts'
import {
  kindInWords,
  NUMBER,
  orEmpty,
  typeInWords,
  UNKNOWN,
  canBeEmpty,
  type Type,
} from '../templates/types/type.ts'
import { typedPages } from './data-types.ts'
import type { Definition } from './definition.ts'

export interface CompletionRequest {
  /** The name of the template. */
  template: string
  /** Its text as it is typed. */
  text: string
  /** Offset of the cursor. */
  at: number
  /** The route of the page that is looked at, if it renders the template. */
  route: string | null
}

/** The start of a path before the cursor: the steps that are complete, and the word that is being typed. */
const PATH = /(?:^|[^\w.'"-])((?:[a-zA-Z_][\w-]*(?:\[\d+\])?\.)*)((?:[a-zA-Z_][\w-]*)?)$/
/** The name of an argument that is being typed. */
const ARGUMENT = /,\s*(\w*)$/

export function completeByType(definition: Definition, request: CompletionRequest): Completion | undefined {
  const { text, at } = request
  const begin = insideBraces(text, at)
  if (begin === undefined) return completeClass(definition, text, at)
  const inside = text.slice(begin, at)
  const quote = openQuote(inside)
  if (quote !== undefined) return completeText(definition, inside, quote, at)
  const completed =
    completeParameter(definition, inside, at) ??
    completeArgument(definition, inside, at) ??
    completeBlock(definition, request, inside)
  return completed ?? completePath(definition, request, inside, begin)
}

/** Returns the offset of the quote that is open at the end of a text. */
function openQuote(text: string): number | undefined {
  let open: number | undefined
  for (let index = 0; index < text.length; index++) {
    const character = text.charAt(index)
    if (open === undefined ? character === '"' || character === "'" : character === text.charAt(open))
      open = open === undefined ? index : undefined
  }
  return open
}

/** Completes the name of a template, a route or an asset in quotes. */
function completeText(
  definition: Definition,
  inside: string,
  quote: number,
  at: number,
): Completion | undefined {
  const lead = inside.slice(0, quote)
  const from = at - (inside.length - quote - 1)
  const templates = (folder: string) =>
    [...definition.templates.mentions()].flatMap(([name]) =>
      name.startsWith(`${folder}/`) ? [{ value: name, detail: argumentsInWords(definition, name) }] : [],
    )
  if (/^-?\s*render\s*$/.test(lead)) return { from, choices: templates('partials') }
  if (/^-?\s*layout\s*$/.test(lead)) return { from, choices: templates('layouts') }
  if (!/(?:^-?|=|\becho)\s*$/.test(lead)) return undefined
  return {
    from,
    choices: [
      ...definition.routes.map(({ route }) => ({ value: route.name, detail: `route ${route.path}` })),
      ...[...definition.assets.keys()].map((value) => ({ value, detail: 'asset' })),
    ],
  }
}

function argumentsOf({ templates }: Definition, partial: string): string[] {
  const find = (name: string) => templates.tree(name)
  const read = namesRead(find(partial) ?? [], find, { fragments: 'follow' })
  return [...read].filter((name) => !SHARED_NAMES.has(name)).sort()
}

function argumentsInWords(definition: Definition, template: string): string {
  const names = template.startsWith('partials/') ? argumentsOf(definition, template) : []
  return names.length === 0 ? '' : `takes ${names.join(', ')}`
}

/** Completes the parameters of the route in `'post' | url: …`. */
function completeParameter(definition: Definition, inside: string, at: number): Completion | undefined {
  const [, name, given = '', word = ''] = /['"]([\w-]+)['"]\s*\|\s*url\s*:([^|]*?)(\w*)$/.exec(inside) ?? []
  const route = definition.routes.find((one) => one.route.name === name)
  if (!route || !/(?:^|,)\s*$/.test(given)) return undefined
  const choices = route.pattern.names
    .filter((one) => !new RegExp(`\\b${one}\\s*:`).test(given))
    .map((one) => ({ value: `${one}: `, detail: `parameter of ${route.route.path}` }))
  return { from: at - word.length, choices }
}

/** Completes the arguments of the partial in `{% render 'partials/card', … %}`. */
function completeArgument(definition: Definition, inside: string, at: number): Completion | undefined {
  const [, partial] = /^-?\s*render\s+['"]([^'"]+)['"]/.exec(inside) ?? []
  const word = ARGUMENT.exec(inside)?.[1]
  if (partial === undefined || word === undefined) return undefined
  const choices = argumentsOf(definition, partial)
    .filter((one) => !new RegExp(`,\\s*${one}\\s*:`).test(inside))
    .map((one) => ({ value: `${one}: `, detail: `argument of ${partial}` }))
  return { from: at - word.length, choices }
}

/** Completes the blocks of the layouts around a page. */
function completeBlock(
  { templates }: Definition,
  { text, template, at }: CompletionRequest,
  inside: string,
): Completion | undefined {
  const word = /^-?\s*block\s+(\w*)$/.exec(inside)?.[1]
  if (word === undefined) return undefined
  const choices: Choice[] = []
  const seen = new Set([template])
  let layout = /\{%-?\s*layout\s+['"]([^'"]+)['"]/.exec(text)?.[1]
  while (layout !== undefined && !seen.has(layout)) {
    seen.add(layout)
    const tree: readonly TemplateNode[] = templates.tree(layout) ?? []
    for (const value of blocksIn(tree)) choices.push({ value, detail: `block of ${layout}` })
    const outer: TemplateNode | undefined = tree.find((one) => one.kind === 'layout')
    layout = outer?.kind === 'layout' ? (outer.template ?? undefined) : undefined
  }
  return { from: at - word.length, choices }
}

function* blocksIn(nodes: readonly TemplateNode[]): Generator<string> {
  for (const node of nodes) {
    if (node.kind === 'block') yield node.name
    if (node.kind === 'block' || node.kind === 'layout' || node.kind === 'fragment')
      yield* blocksIn(node.body)
    if (node.kind === 'choice') for (const one of node.branches) yield* blocksIn(one.body)
  }
}

function completePath(
  definition: Definition,
  request: CompletionRequest,
  inside: string,
  begin: number,
): Completion | undefined {
  const [, path = '', word = ''] = PATH.exec(inside) ?? []
  // The name of a tag, and that of a filter, are completed elsewhere.
  if (path === '' && (request.text.charAt(begin - 1) === '%' ? /^-?\s*\w*$/ : /\|\s*\w*$/).test(inside))
    return undefined
  const scope = scopeBefore(definition, request, begin - 2)
  if (!scope) return undefined
  const from = request.at - word.length
  if (path === '')
    return {
      from,
      choices: [...scope].map(([value, type]) => ({ value, detail: typeInWords(type) })),
    }
  const [first = '', ...steps] = path
    .slice(0, -1)
    .split('.')
    .flatMap((one) => one.split(/(?=\[)/))
  let type = scope.get(first) ?? UNKNOWN
  for (const step of steps) type = within(type, step)
  return { from, choices: fieldsOf(type) }
}

/** Returns the type of a field or an item. */
function within(type: Type, step: string): Type {
  if (type.kind === 'row') {
    const field = type.fields.get(step) ?? UNKNOWN
    return canBeEmpty(type) ? orEmpty(field) : field
  }
  if (step === 'size') return NUMBER
  return type.kind === 'list' && /^(\[\d+\]|first|last)$/.test(step) ? orEmpty(type.of) : UNKNOWN
}

function fieldsOf(type: Type): Choice[] {
  if (type.kind === 'list')
    return [
      { value: 'size', detail: 'number' },
      { value: 'first', detail: kindInWords(type.of) },
      { value: 'last', detail: kindInWords(type.of) },
    ]
  if (type.kind !== 'row') return type.kind === 'text' ? [{ value: 'size', detail: 'number' }] : []
  return [
    ...[...type.fields].map(([value, of]) => ({ value, detail: typeInWords(of) })),
    ...[...type.absent].map(([value, { hint }]) => ({ value, detail: `not fetched. ${hint}` })),
  ]
}

/** Returns the names at an offset with their types. What follows may be incomplete, so it is not read. */
function scopeBefore(
  definition: Definition,
  { template, text, route }: CompletionRequest,
  offset: number,
): ReadonlyMap<string, Type> | undefined {
  const before = text.slice(0, offset)
  const ends = openTags(before).map((name) => `{% end${name} %}`)
  // The probe is found by its place.
  const tree = definition.templates.parsed(`${before}{{ 0 }}${ends.join('')}`, template)
  if (!tree) return undefined
  const lines = before.split('\n')
  const place = { line: lines.length, column: (lines.at(-1) ?? '').length + 1 }
  const pages = [...typedPages(definition)].filter(({ page }) =>
    definition.templates.closure(page).includes(template),
  )
  const page = pages.find((one) => one.route === route) ?? pages[0]
  let scope: ReadonlyMap<string, Type> | undefined
  if (page)
    observeTypes((name) => (name === template ? tree : definition.templates.tree(name)), page, {
      node(of, { line, column }, { names, narrowed }) {
        if (scope || of !== template || line !== place.line || column !== place.column) return
        scope = new Map(
          [...names, ...page.globals].map(([name, type]) => [
            name,
            narrowed.get(name) ?? names.get(name) ?? type,
          ]),
        )
      },
      path: () => undefined,
    })
  return scope ?? page?.globals ?? sharedNames(definition)
}

/** Returns the names that every template sees. */
function sharedNames(definition: Definition): TypedPage['globals'] | undefined {
  for (const { globals } of typedPages(definition)) return globals
  return undefined
}

/** Completes a class of the stylesheets in `class="…"`. */
function completeClass({ assets }: Definition, text: string, at: number): Completion | undefined {
  const [, word] =
    /<[a-z][^<>]*\bclass\s*=\s*"[^"]*?([\w-]*)$/i.exec(text.slice(Math.max(0, at - 2_000), at)) ?? []
  if (word === undefined) return undefined
  const classes = new Map<string, string>()
  for (const [name, css] of assets)
    if (name.endsWith('.css')) for (const one of classesIn(css)) if (!classes.has(one)) classes.set(one, name)
  return {
    from: at - word.length,
    choices: [...classes]
      .map(([value, detail]) => ({ value, detail }))
      .sort((a, b) => a.value.localeCompare(b.value)),
  }
}

/** Returns the class names of a stylesheet. */
export function classesIn(css: string): Set<string> {
  const bare = css.replace(/\/\*[\s\S]*?\*\//g, '').replace(/url\([^)]*\)|"[^"\n]*"|'[^'\n]*'/g, '')
  return new Set([...bare.matchAll(/\.(-?[_a-zA-Z][\w-]*)/g)].map(([, name = '']) => name))
}
