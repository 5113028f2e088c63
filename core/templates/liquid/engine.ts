/** liquidjs, set up to parse the templates of a definition, and its errors as problems. */
import { Liquid, LiquidError, Parser, Tokenizer, type Template } from 'liquidjs'
import type { Worded } from '../../shapes/catalogue.ts'
import { templatePath } from '../../shapes/documents.ts'
import type { Problem } from '../../shapes/problem.ts'
import { isTooDeep } from '../../shapes/yaml.ts'
import { innermost, WordedError } from '../failure.ts'
import { TEMPLATE_PROBLEMS } from '../problems.ts'
import type { Filters } from '../program/filters.ts'
import { FragmentTag } from './fragment-tag.ts'
import { dropTagLines } from './tag-lines.ts'

const MEMORY_UNITS = 20_000_000

/**
 * @param own our filters
 * @param language of the blog
 */
export function makeEngine(own: Filters, language = 'en'): Liquid {
  const engine = new Liquid({
    extname: '',
    relativeReference: false,
    // Names of months and days; English ones are abbreviated alike everywhere.
    locale: /^en\b/.test(language) ? 'en-US' : language,
    strictFilters: true,
    ownPropertyOnly: true,
    memoryLimit: MEMORY_UNITS,
  })
  engine.registerTag('fragment', FragmentTag)
  // A partial of `include` would see everything, so it could not be analysed.
  delete engine.tags['include']
  for (const name of own.keys()) engine.registerFilter(name, NOT_APPLIED)
  return engine
}

/**
 * Parses a template.
 * @param name of the template, for errors
 */
export function parsed(engine: Liquid, text: string, name?: string): Template[] {
  const tokens = new Tokenizer(text, engine.options.operators, name).readTopLevelTokens(engine.options)
  dropTagLines(tokens)
  return new Parser(engine).parseTokens(tokens)
}

/** Filters are applied by the program; liquidjs only has to know their names. */
const NOT_APPLIED = () => {
  throw new Error('liquidjs applies no filters.')
}

/**
 * Returns an error of parsing or rendering as a problem with its place.
 * @param name of the template that was parsed or rendered; the error may be in a partial
 */
export function templateProblem(error: unknown, name: string): Problem {
  const worded = wordedOf(error)
  if (!LiquidError.is(error)) return { file: templatePath(name), ...worded }
  const token = error.token as { file?: string; getPosition(): number[] } | undefined
  const [line, column] = token?.getPosition() ?? []
  return {
    file: templatePath(token?.file ?? name),
    ...(line === undefined ? {} : { line }),
    ...(column === undefined ? {} : { column }),
    ...worded,
  }
}

/** Tags that are closed by a tag of their own. */
const BLOCKS = ['for', 'tablerow', 'if', 'unless', 'case', 'capture', 'fragment', 'block', 'comment']

/** Returns the innermost tag that is open where an error is. */
function openTag(error: unknown): { name: string; line: number } | undefined {
  const token = LiquidError.is(error) ? (error.token as { input?: string; begin?: number }) : undefined
  if (typeof token?.input !== 'string' || typeof token.begin !== 'number') return undefined
  const open: { name: string; line: number }[] = []
  const before = token.input.slice(0, token.begin)
  for (const { 1: name = '', index } of before.matchAll(/\{%-?\s*(\w+)/g)) {
    if (BLOCKS.includes(name)) open.push({ name, line: before.slice(0, index).split('\n').length })
    else if (name.startsWith('end')) open.pop()
  }
  return open.at(-1)
}

/** Returns an error as a message with its code. */
export function wordedOf(error: unknown): Worded {
  const original = innermost(error)
  if (original instanceof WordedError) return original.worded
  const message = (original instanceof Error ? original.message : String(original)).replace(
    /, (file|line|col):.*$/s,
    '',
  )
  const filter = /^undefined filter: (\w+)$/.exec(message)?.[1]
  if (filter !== undefined) return TEMPLATE_PROBLEMS['template-filter-unknown'](filter)
  const tag = /^tag "(\w+)" not found$/.exec(message)?.[1]
  if (tag !== undefined)
    return tag.startsWith('end')
      ? TEMPLATE_PROBLEMS['template-tag-not-open'](tag, openTag(error))
      : TEMPLATE_PROBLEMS['template-tag-unknown'](tag)
  if (isTooDeep(message)) return TEMPLATE_PROBLEMS['template-too-deep']()
  const sentence = `${message.charAt(0).toUpperCase()}${message.slice(1)}${/[.?!]$/.test(message) ? '' : '.'}`
  return LiquidError.is(error) && error.name !== 'RenderError'
    ? TEMPLATE_PROBLEMS['template-syntax'](sentence)
    : TEMPLATE_PROBLEMS['template-render-failed'](sentence)
}
