/** All templates of a definition, compiled together: their problems, what they read, and rendering. */
import type { Liquid } from 'liquidjs'
import type { AgeWords } from '../content/age.ts'
import { WHOLE_LIST, type HtmlRules } from '../content/html/allow-list.ts'
import type { Worded } from '../shapes/catalogue.ts'
import { templatePath } from '../shapes/documents.ts'
import type { Problem } from '../shapes/problem.ts'
import { toItsEnd, type InSteps } from '../shapes/steps.ts'
import { suggestName } from '../shapes/suggest-name.ts'
import { TemplateFailure } from './failure.ts'
import { makeEngine, templateProblem, wordedOf } from './liquid/engine.ts'
import { treeOfText } from './liquid/parse.ts'
import { mentionsOf, type TemplateMentions } from './mentions.ts'
import { namesRead } from './names.ts'
import { fragmentInputs } from './fragment-inputs.ts'
import { fragmentProblems } from './fragment-problems.ts'
import { TEMPLATE_PROBLEMS } from './problems.ts'
import { ownFilters } from './program/filters.ts'
import { Program, type ProgramSources } from './program/program.ts'
import { readsOf, type PageReads } from './reads.ts'
import { DataNeeded, fragmentPart, type RenderServices } from './scope.ts'
import type { TemplateNode } from './tree.ts'

interface Compiled {
  tree: readonly TemplateNode[]
  mentions: TemplateMentions
}

/** The names that a page reads: all of them, and those it reads outside fragments, which are needed in any case. */
export interface PageNames {
  all: ReadonlySet<string>
  outsideFragments: ReadonlySet<string>
}

/** A fragment as its tag declares it. */
export interface DeclaredFragment {
  name: string
  /** In milliseconds. */
  lifetime: number
  template: string
  line: number
  /** Whether its tag adds values to the key. */
  varies: boolean
  /** The names that its body reads, whose values are in its key. */
  reads: string[]
}

export class TemplateSet {
  readonly #engine: Liquid
  readonly #program: Program
  /** The same templates, compiled to report their nodes. */
  readonly #recorded: Program
  readonly #compiled = new Map<string, Compiled>()
  readonly #problems: Problem[] = []
  readonly #sources: ReadonlyMap<string, string>
  /** The fragments by name and body. */
  readonly #fragments = new Set<string>()
  readonly #names = new Map<string, PageNames>()
  readonly #fieldReads = new Map<string, PageReads>()

  /**
   * @param sources template name (`partials/card`) → text
   * @param timeZone of dates printed by the filter `date`
   * @param rules of HTML rendered by the filter `markdown`
   * @param words the language of dates and ages, and what is said of less than a minute
   */
  constructor(
    sources: ReadonlyMap<string, string>,
    timeZone: string,
    rules: HtmlRules = WHOLE_LIST,
    words: AgeWords = {},
  ) {
    this.#sources = sources
    const filters = ownFilters(timeZone, rules, words)
    const liquid = makeEngine(filters, words.language)
    this.#engine = liquid
    const parts: ProgramSources = {
      tree: this.#treeOf,
      inputs: ({ body }) => fragmentInputs(body, this.#treeOf),
      filters,
      liquid,
      isRecorded: false,
    }
    this.#program = new Program(parts)
    this.#recorded = new Program({ ...parts, isRecorded: true })
  }

  /** Compiles templates at once. */
  static of(...words: ConstructorParameters<typeof TemplateSet>): TemplateSet {
    return toItsEnd(TemplateSet.inSteps(...words))
  }

  /** Compiles templates one after the other. */
  static *inSteps(...words: ConstructorParameters<typeof TemplateSet>): InSteps<TemplateSet> {
    const set = new TemplateSet(...words)
    yield* set.#compile()
    return set
  }

  *#compile(): InSteps<undefined> {
    for (const [name, text] of this.#sources) {
      yield undefined
      try {
        const tree = treeOfText(text, this.#engine, name)
        this.#compiled.set(name, { tree, mentions: mentionsOf(tree) })
      } catch (error) {
        this.#problems.push(templateProblem(error, name))
      }
    }
    for (const { mentions } of this.#compiled.values())
      for (const { name, bodyHash } of mentions.fragments) this.#fragments.add(fragmentPart(name, bodyHash))
    this.#checkPartials()
    if (this.#problems.length === 0) yield* this.#checkFragments()
    return undefined
  }

  get problems(): readonly Problem[] {
    return this.#problems
  }

  /** Returns the names of a template and of all templates that it renders or is rendered in. */
  closure(name: string): string[] {
    const found = new Set<string>()
    const follow = (one: string) => {
      if (found.has(one)) return
      found.add(one)
      for (const { name: next } of this.#compiled.get(one)?.mentions.templates ?? [])
        if (next !== null) follow(next)
    }
    follow(name)
    return [...found].sort()
  }

  /** Returns the text of a template. */
  text(name: string): string | undefined {
    return this.#sources.get(name)
  }

  /** Whether there is a fragment with this name and body, as `fragmentPart` writes them. */
  hasFragment(part: string): boolean {
    return this.#fragments.has(part)
  }

  /** Returns the fragments of all templates, in the order of templates and lines. */
  fragments(): DeclaredFragment[] {
    return [...this.#compiled].flatMap(([template, { mentions }]) =>
      mentions.fragments.map(({ name, lifetime, vary, place, body }) => ({
        name,
        lifetime,
        template,
        line: place.line,
        reads: [...namesRead(body, this.#treeOf, { fragments: 'follow' })].filter((one) => one !== 'blog'),
        varies: vary.length > 0,
      })),
    )
  }

  has(name: string): boolean {
    return this.#compiled.has(name)
  }

  /** Yields what each template names. */
  *mentions(): Iterable<[string, TemplateMentions]> {
    for (const [name, { mentions }] of this.#compiled) yield [name, mentions]
  }

  /** Returns the syntax tree of a template. */
  tree(name: string): readonly TemplateNode[] | undefined {
    return this.#treeOf(name)
  }

  /** Returns the syntax tree of a text that is not one of the templates; undefined if it does not parse. */
  parsed(text: string, name: string): readonly TemplateNode[] | undefined {
    try {
      return treeOfText(text, this.#engine, name)
    } catch {
      return undefined
    }
  }

  readonly #treeOf = (name: string) => this.#compiled.get(name)?.tree

  /** Returns the names that a page reads from its scope, its layout and partials included. */
  names(page: string): PageNames {
    const known = this.#names.get(page)
    if (known) return known
    const nodes = this.#treeOf(page) ?? []
    const found = {
      all: namesRead(nodes, this.#treeOf, { fragments: 'follow' }),
      outsideFragments: namesRead(nodes, this.#treeOf, { fragments: 'skip' }),
    }
    this.#names.set(page, found)
    return found
  }

  /** Whether a page reads the time other than to print a date. */
  readsClock(page: string): boolean {
    return this.closure(page).some((name) => {
      const compiled = this.#compiled.get(name)
      return (
        compiled !== undefined &&
        (compiled.mentions.templates.some((one) => one.name === null) ||
          fragmentInputs(compiled.tree, this.#treeOf).readsClock)
      )
    })
  }

  /**
   * Returns the fields of its data that a page reads, with their lines.
   * @param names of the data
   */
  fieldReads(page: string, names: readonly string[]): PageReads {
    const key = `${page} ${names.join()}`
    let found = this.#fieldReads.get(key)
    if (!found) this.#fieldReads.set(key, (found = readsOf(this.#treeOf, page, names)))
    return found
  }

  /**
   * Renders a page.
   * @param dataNames names of the page's data, which is read from `services.data`
   * @param globals values that partials see as well; may have getters that require data
   * @throws DataNeeded if data must be loaded first; otherwise TemplateFailure with file and line
   */
  render(page: string, dataNames: Iterable<string>, globals: object, services: RenderServices): string {
    if (!this.#compiled.has(page)) {
      const hint = suggestName(page, [...this.#compiled.keys()])
      throw new TemplateFailure({
        file: templatePath(page),
        ...TEMPLATE_PROBLEMS['template-missing'](page, hint),
      })
    }
    const program = services.tracer.recorder ? this.#recorded : this.#program
    return program.render(page, services.data.asScope(dataNames), globals, services, (error, at) => {
      if (error instanceof DataNeeded || error instanceof TemplateFailure) return error
      const { template, line, column } = at
      return new TemplateFailure({ file: templatePath(template), line, column, ...wordedOf(error) }, error)
    })
  }

  #report(template: string, place: { line: number; column: number }, worded: Worded): void {
    this.#problems.push({ file: templatePath(template), ...place, ...worded })
  }

  /** A copy is shown to every reader, so a fragment must not read what differs between readers or requests. */
  *#checkFragments(): InSteps<undefined> {
    for (const [name, { tree, mentions }] of this.#compiled) {
      yield undefined
      for (const fragment of mentions.fragments)
        for (const { template, place, worded } of fragmentProblems(fragment, name, tree, this.#treeOf))
          this.#report(template, place, worded)
    }
    return undefined
  }

  #checkPartials(): void {
    for (const [name, { mentions }] of this.#compiled)
      for (const { name: wanted, tag, place } of mentions.templates) {
        const worded = this.#partialProblem(name, wanted, tag)
        if (worded) this.#report(name, place, worded)
      }
  }

  #partialProblem(name: string, wanted: string | null, tag: string): Worded | undefined {
    if (wanted === null) return TEMPLATE_PROBLEMS['template-name-computed'](tag)
    if (!this.#compiled.has(wanted))
      // A template that exists but does not parse has a problem of its own.
      return this.#problems.some((one) => one.file === templatePath(wanted))
        ? undefined
        : TEMPLATE_PROBLEMS['template-missing'](wanted, suggestName(wanted, [...this.#compiled.keys()]))
    const cycle = this.#pathBack(name, wanted)
    return cycle && TEMPLATE_PROBLEMS['template-renders-itself'](wanted, cycle)
  }

  /**
   * Finds the path by which rendering `wanted` leads back to `name`.
   * @param seen templates from which no path leads back
   */
  #pathBack(
    name: string,
    wanted: string,
    path: readonly string[] = [],
    seen = new Set<string>(),
  ): string[] | undefined {
    if (wanted === name) return [name, ...path, name]
    if (seen.has(wanted)) return undefined
    seen.add(wanted)
    for (const next of this.#compiled.get(wanted)?.mentions.templates ?? []) {
      const found = next.name === null ? undefined : this.#pathBack(name, next.name, [...path, wanted], seen)
      if (found) return found
    }
    return undefined
  }
}
