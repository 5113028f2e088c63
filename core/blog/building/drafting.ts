/** A step that is being drafted: the documents as they become, and what is kept of them. */
import type { DocumentChange } from '../../shapes/changes.ts'
import type { Look } from '../../shapes/building.ts'
import { queryPath } from '../../shapes/documents.ts'
import type { Problem } from '../../shapes/problem.ts'
import type { Route } from '../../shapes/schemas.ts'
import type { Definition } from '../definition.ts'
import { addRoute, addSharedData, replaceRoute } from '../edit.ts'
import { STARTING_POINT_PROBLEMS } from '../problems.ts'
import { featuresOf, type Features } from './features.ts'
import { starterPath, starterTemplate, STARTER_TEMPLATES, type StarterTemplate } from './starter-templates.ts'

export interface StepSurroundings {
  definition: Definition
  documents: ReadonlyMap<string, string>
  /** Documents that the steps start from: the stylesheet, and the parts of comments. */
  parts: ReadonlyMap<string, string>
  /** The documents of a new blog, which may be replaced. */
  blank: ReadonlyMap<string, string>
  look: Look
}

export interface StepDraft {
  changes: DocumentChange[]
  /** Documents that the step would have changed, and whose author has changed them. They stay as they are. */
  kept: string[]
}

/** What a card shows. */
export const CARD_QUERY = 'from: posts\nwith: [category, author, image, commentCount]\n'

/** The problem of a step whose needs are not met. */
export const missing = (what: string): Problem => ({
  file: 'routes.yaml',
  ...STARTING_POINT_PROBLEMS['step-needs'](what),
})

/** The documents as they become, and what is found in them. */
export class Drafting {
  readonly given: StepSurroundings
  readonly has: Features
  /** What the blog has once the step is done. */
  after: Features
  readonly #texts: Map<string, string>
  readonly #kept = new Set<string>()

  constructor(given: StepSurroundings) {
    this.given = given
    this.#texts = new Map(given.documents)
    this.has = this.after = featuresOf(given.definition, given.documents)
  }

  text(path: string): string | undefined {
    return this.#texts.get(path)
  }

  put(path: string, text: string): void {
    this.#texts.set(path, text)
  }

  /** Returns a name that no document of a kind and no route has. */
  free(wanted: string, pathOf: (name: string) => string): string {
    const taken = (name: string) =>
      this.#texts.has(pathOf(name)) || this.given.definition.routes.some((one) => one.route.name === name)
    let name = wanted
    for (let number = 2; taken(name); number++) name = `${wanted}-${number}`
    return name
  }

  /** Adds a query, unless there is one with the same text. @returns its name */
  query(wanted: string, text: string): string {
    const same = this.#texts.get(queryPath(wanted)) === text
    const name = same ? wanted : this.free(wanted, queryPath)
    this.put(queryPath(name), text)
    return name
  }

  /** Adds a route before the one that matches every path. */
  route(route: Route): Problem | undefined {
    const { page } = this.has
    const isGeneral = page !== undefined && /^\/:\w+[+*]?$/.test(page.route.path)
    const list = addRoute(
      this.#texts.get('routes.yaml') ?? '',
      route,
      isGeneral ? page.route.name : undefined,
    )
    return this.#routes(list)
  }

  /** Adds data to a route. */
  addData({ name }: Route, data: NonNullable<Route['data']>): Problem | undefined {
    return this.#routes(
      replaceRoute(this.#texts.get('routes.yaml') ?? '', name, (declared) => ({
        ...declared,
        data: { ...declared.data, ...data },
      })),
    )
  }

  /** Returns a name of shared data that no other shared data has. */
  freeShared(wanted: string, query: string): string {
    const { data = {} } = this.given.definition.settings
    let name = wanted
    for (let number = 2; Object.hasOwn(data, name) && data[name] !== query; number++)
      name = `${wanted}${number}`
    return name
  }

  /** Adds data for all routes to the settings, which keep their comments. */
  addSharedData(data: NonNullable<Route['data']>): Problem | undefined {
    const changed = addSharedData(this.#texts.get('blog.yaml') ?? '', data)
    if (changed === undefined)
      return { file: 'blog.yaml', ...STARTING_POINT_PROBLEMS['step-settings-not-editable']() }
    this.put('blog.yaml', changed)
    return undefined
  }

  #routes(text: string | undefined): Problem | undefined {
    if (text === undefined)
      return { file: 'routes.yaml', ...STARTING_POINT_PROBLEMS['starting-point-routes-not-editable']() }
    this.put('routes.yaml', text)
    return undefined
  }

  /** Adds a template, unless there is one. */
  template(name: StarterTemplate, has: Features): void {
    if (!this.#texts.has(starterPath(name))) this.put(starterPath(name), starterTemplate(name, has))
  }

  /** Replaces the templates that are as the steps have made them. Those that were changed stay. */
  refresh(after: Features): void {
    this.after = after
    for (const name of STARTER_TEMPLATES) {
      const path = starterPath(name)
      const text = this.#texts.get(path)
      const [before, wanted] = [starterTemplate(name, this.has), starterTemplate(name, after)]
      if (text === undefined || before === wanted) continue
      if (text === before) this.put(path, wanted)
      else if (text !== wanted && text !== this.given.blank.get(path)) this.#kept.add(path)
    }
  }

  /** Changes a document that its author may have written. */
  edit(path: string, change: (text: string) => string): void {
    const text = this.#texts.get(path)
    if (text === undefined) return
    const changed = change(text)
    if (changed === text) return
    this.put(path, changed)
    this.#kept.delete(path)
  }

  isAsMade(name: StarterTemplate): boolean {
    const text = this.given.documents.get(starterPath(name))
    return text === undefined || text === starterTemplate(name, this.has)
  }

  keep(path: string): void {
    this.#kept.add(path)
  }

  result(): StepDraft {
    const { documents } = this.given
    const changes = [...this.#texts].flatMap(([document, text]) =>
      documents.get(document) === text ? [] : [{ document, text }],
    )
    return { changes, kept: [...this.#kept].filter((path) => this.#texts.get(path) === documents.get(path)) }
  }
}
