/** All templates of a definition, compiled together: what is wrong with them, what they read, and rendering. */
import { WHOLE_LIST, type HtmlRules } from '../content/html/allow-list.ts'
import { Liquid, LiquidError, toValueSync, type Template } from 'liquidjs'
import { templatePath } from '../shapes/documents.ts'
import type { Problem } from '../shapes/problem.ts'
import { suggestName } from '../shapes/suggest-name.ts'
import { TOO_DEEP } from '../shapes/yaml.ts'
import { mentionsOf, type TemplateMentions } from './analysis.ts'
import { makeDirect, renderDirectly } from './direct.ts'
import { printed, registerFilters } from './filters.ts'
import { readsOf, type PageReads } from './reads.ts'
import { DataNeeded, innermost, withServices, type RenderServices } from './scope.ts'
import { FragmentTag, SafeCapture, TracedLayout, LazyRender, withBodiesHidden } from './tags.ts'

/** Limits of one rendering. */
const RENDER_MILLISECONDS = 2_000
const MEMORY_UNITS = 50_000_000
/** Largest page, in characters. */
const PAGE_LIMIT = 10_000_000

/** A rendering that failed, with the template line that failed. */
export class TemplateFailure extends Error {
  /** @param cause what was thrown inside the template */
  constructor(
    readonly problem: Problem,
    override readonly cause?: unknown,
  ) {
    super(problem.message)
  }
}

interface Compiled {
  templates: Template[]
  mentions: TemplateMentions
}

export class TemplateSet {
  readonly #engine: Liquid
  readonly #compiled = new Map<string, Compiled>()
  readonly #problems: Problem[] = []
  readonly #reads = new Map<string, { all: ReadonlySet<string>; eager: ReadonlySet<string> }>()

  readonly #fieldReads = new Map<string, PageReads>()

  /**
   * @param sources template name (`partials/card`) → text
   * @param timeZone of dates printed by the `date` filter
   * @param rules of HTML made by the `markdown` filter
   */
  constructor(sources: ReadonlyMap<string, string>, timeZone: string, rules: HtmlRules = WHOLE_LIST) {
    this.#engine = makeEngine(sources, timeZone, rules)
    for (const [name, text] of sources) {
      try {
        const templates = this.#engine.parse(text, name)
        this.#compiled.set(name, { templates, mentions: mentionsOf(templates) })
      } catch (error) {
        this.#problems.push(problemOf(error, name))
      }
    }
    this.#checkPartials()
    if (this.#problems.length === 0) this.#checkFragments()
    if (this.#problems.length === 0) this.#makeDirect()
  }

  get problems(): readonly Problem[] {
    return this.#problems
  }

  has(name: string): boolean {
    return this.#compiled.has(name)
  }

  /** What each template names, for checks across documents. */
  *mentions(): Iterable<[string, TemplateMentions]> {
    for (const [name, { mentions }] of this.#compiled) yield [name, mentions]
  }

  /**
   * Names that a page reads from its scope, its layout and partials included.
   * @returns all of them, and those read outside kept fragments (needed before rendering begins)
   */
  reads(name: string): { all: ReadonlySet<string>; eager: ReadonlySet<string> } {
    const known = this.#reads.get(name)
    if (known) return known
    const templates = this.#compiled.get(name)?.templates ?? []
    const globals = () =>
      new Set(Object.keys(this.#engine.analyzeSync(templates, { partials: true }).globals))
    const found = { all: globals(), eager: withBodiesHidden(globals) }
    this.#reads.set(name, found)
    return found
  }

  /**
   * Which fields of its data a page reads, with the lines.
   * @param names of the data
   */
  fieldReads(name: string, names: readonly string[]): PageReads {
    const key = `${name} ${names.join()}`
    let found = this.#fieldReads.get(key)
    if (!found)
      this.#fieldReads.set(key, (found = readsOf((one) => this.#compiled.get(one)?.templates, name, names)))
    return found
  }

  /**
   * Renders a page.
   * @param dataNames names of the page's own data, read from `services.data`
   * @param globals what partials see as well; may hold properties that ask for data
   * @throws DataNeeded when data must be loaded first; TemplateFailure with file and line otherwise
   */
  render(name: string, dataNames: Iterable<string>, globals: object, services: RenderServices): string {
    const compiled = this.#compiled.get(name)
    if (!compiled)
      throw new TemplateFailure({ file: templatePath(name), message: 'there is no such template' })
    try {
      const html: unknown = this.#engine.renderSync(compiled.templates, services.data.asScope(dataNames), {
        globals: withServices(globals, services),
      })
      const text = String(html)
      if (text.length > PAGE_LIMIT)
        throw new TemplateFailure({
          file: templatePath(name),
          message: `the page is longer than ${PAGE_LIMIT} characters`,
        })
      return text
    } catch (error) {
      const cause = innermost(error)
      if (cause instanceof DataNeeded || cause instanceof TemplateFailure) throw cause
      throw new TemplateFailure(problemOf(error, name), cause)
    }
  }

  /** Pages, and the copies of partials and layouts that liquidjs keeps for itself. */
  #makeDirect(): void {
    const kept = this.#engine as unknown as Record<
      '_parsePartialFile' | '_parseLayoutFile',
      (name: string, sync: boolean) => Generator<unknown, Template[]>
    >
    for (const [name, { templates }] of this.#compiled) {
      if (name.startsWith('partials/')) makeDirect(toValueSync(kept._parsePartialFile(name, true)))
      else if (name.startsWith('layouts/')) makeDirect(toValueSync(kept._parseLayoutFile(name, true)))
      else makeDirect(templates)
    }
  }

  #checkFragments(): void {
    for (const [name, { mentions }] of this.#compiled) {
      for (const { tag, place } of mentions.fragments) {
        const [first] = tag.readsOfOneReader()
        if (first === undefined) continue
        const hint =
          first === 'request' ? 'name what differs, e.g. vary: request.path' : 'move it out of the fragment'
        this.#problems.push({
          file: templatePath(name),
          ...place,
          message: `fragment “${tag.fragmentName}” reads “${first}”, which is different for each ${first === 'request' ? 'request' : 'reader'}`,
          hint,
        })
      }
    }
  }

  #checkPartials(): void {
    for (const [name, { mentions }] of this.#compiled) {
      for (const { name: wanted, tag, place } of mentions.templates) {
        const file = templatePath(name)
        if (wanted === null) {
          this.#problems.push({
            file,
            ...place,
            message: `the name after “${tag}” is computed`,
            hint: 'write it in quotes, so that it can be checked',
          })
        } else if (
          !this.#compiled.has(wanted) &&
          !this.#problems.some((one) => one.file === templatePath(wanted))
        ) {
          this.#problems.push({
            file,
            ...place,
            message: `there is no template “${wanted}”`,
            hint: suggestName(wanted, [...this.#compiled.keys()]),
          })
        } else {
          const cycle = this.#pathBack(name, wanted)
          if (cycle)
            this.#problems.push({
              file,
              ...place,
              message: `“${wanted}” renders itself: ${cycle.join(' → ')}`,
              hint: 'a partial may not contain itself',
            })
        }
      }
    }
  }

  /**
   * Names from `wanted` back to `name`, when rendering the one leads to the other.
   * @param seen names that were followed already, from which no way led back
   */
  #pathBack(
    name: string,
    wanted: string,
    way: readonly string[] = [],
    seen = new Set<string>(),
  ): string[] | undefined {
    if (wanted === name) return [name, ...way, name]
    if (seen.has(wanted)) return undefined
    seen.add(wanted)
    for (const next of this.#compiled.get(wanted)?.mentions.templates ?? []) {
      const path = next.name === null ? undefined : this.#pathBack(name, next.name, [...way, wanted], seen)
      if (path) return path
    }
    return undefined
  }
}

function makeEngine(sources: ReadonlyMap<string, string>, timeZone: string, rules: HtmlRules): Liquid {
  const read = (file: string) => {
    const text = sources.get(file)
    if (text === undefined) throw new Error(`there is no template “${file}”`)
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
    strictFilters: true,
    ownPropertyOnly: true,
    outputEscape: printed,
    renderLimit: RENDER_MILLISECONDS,
    memoryLimit: MEMORY_UNITS,
    parseLimit: 5_000_000,
  })
  engine.registerTag('fragment', FragmentTag)
  engine.registerTag('render', LazyRender)
  engine.registerTag('layout', TracedLayout)
  engine.registerTag('capture', SafeCapture)
  delete engine.tags['include']
  registerFilters(engine, timeZone, rules)
  renderDirectly(engine)
  return engine
}

function problemOf(error: unknown, name: string): Problem {
  if (!LiquidError.is(error))
    return { file: templatePath(name), message: error instanceof Error ? error.message : String(error) }
  const token = error.token as { file?: string; getPosition(): number[] } | undefined
  const [line, column] = token?.getPosition() ?? []
  const original = innermost(error)
  const message = (original instanceof Error ? original.message : error.message)
    .replace(/, (file|line|col):.*$/s, '')
    .replace(/^undefined filter: (\w+)$/, 'there is no filter “$1”')
    .replace(/^tag "(\w+)" not found$/, 'there is no tag “$1”')
    .replace(/^Maximum call stack size exceeded$/, TOO_DEEP)
  const closes = /^there is no tag “end\w+”$/.test(message)
  return {
    file: templatePath(token?.file ?? name),
    ...(closes ? { hint: 'something opened before it is not closed' } : {}),
    ...(line === undefined ? {} : { line }),
    ...(column === undefined ? {} : { column }),
    message: message.replace(
      /^template render limit exceeded$/,
      `the page took longer than ${RENDER_MILLISECONDS} ms to render`,
    ),
  }
}
