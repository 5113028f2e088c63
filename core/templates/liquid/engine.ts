/** liquidjs, set up for the templates of one definition, and its errors as problems. */
import { Liquid, LiquidError } from 'liquidjs'
import type { AgeWords } from '../../content/age.ts'
import type { HtmlRules } from '../../content/html/allow-list.ts'
import type { Worded } from '../../shapes/catalogue.ts'
import { templatePath } from '../../shapes/documents.ts'
import type { Problem } from '../../shapes/problem.ts'
import { isTooDeep } from '../../shapes/yaml.ts'
import { innermost, WordedError } from '../failure.ts'
import { TEMPLATE_PROBLEMS } from '../problems.ts'
import { renderDirectly } from './direct.ts'
import { printed, registerFilters } from './filters.ts'
import { FragmentTag, LazyRender, SafeCapture, TracedLayout } from './tags.ts'

const MEMORY_UNITS = 20_000_000
const PARSED_CHARACTERS = 5_000_000

/** @param sources template name → text */
export function makeEngine(
  sources: ReadonlyMap<string, string>,
  timeZone: string,
  rules: HtmlRules,
  words: AgeWords,
): Liquid {
  const { language = 'en' } = words
  const read = (file: string) => {
    const text = sources.get(file)
    if (text === undefined) throw new WordedError(TEMPLATE_PROBLEMS['template-missing'](file, ''))
    return text
  }
  const engine = new Liquid({
    cache: true,
    extname: '',
    relativeReference: false,
    fs: {
      exists: async (file) => sources.has(file),
      existsSync: (file) => sources.has(file),
      readFile: async (file) => read(file),
      readFileSync: read,
      resolve: (_root, file) => file,
      contains: async () => true,
      containsSync: () => true,
    },
    // Names of months and days; English ones are abbreviated alike everywhere.
    locale: /^en\b/.test(language) ? 'en-US' : language,
    strictFilters: true,
    ownPropertyOnly: true,
    outputEscape: printed,
    // `spend` stops what takes too long, which a busy machine, or a suspended process, does not.
    renderLimit: Infinity,
    memoryLimit: MEMORY_UNITS,
    parseLimit: PARSED_CHARACTERS,
  })
  engine.registerTag('fragment', FragmentTag)
  engine.registerTag('render', LazyRender)
  engine.registerTag('layout', TracedLayout)
  engine.registerTag('capture', SafeCapture)
  // A partial of `include` would see everything, so it could not be analysed.
  delete engine.tags['include']
  registerFilters(engine, timeZone, rules, words)
  renderDirectly(engine)
  return engine
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

function wordedOf(error: unknown): Worded {
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
