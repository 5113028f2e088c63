/** All templates of a definition as functions. */
import type { Liquid } from 'liquidjs'
import type { FragmentInputs } from '../fragment-inputs.ts'
import type { RenderServices } from '../scope.ts'
import type { NodeOf, TemplateNode } from '../tree.ts'
import type { Templates } from './compiling.ts'
import type { Filters } from './filters.ts'
import { Names } from './names.ts'
import { sequence } from './nodes.ts'
import type { Located } from '../recorder.ts'
import { Frame, Rendering, type Write } from './rendering.ts'

export interface ProgramSources {
  tree(template: string): readonly TemplateNode[] | undefined
  inputs(fragment: NodeOf<'fragment'>): FragmentInputs
  filters: Filters
  /** The engine that has parsed the templates. */
  liquid: Liquid
  /** Whether renderings report their nodes to the recorder of their tracer. */
  isRecorded: boolean
}

export class Program implements Templates {
  readonly #sources: ProgramSources
  /** Pages and layouts share their names. */
  readonly #ofPages = new Names()
  readonly #ofPartials = new Map<string, Names>()
  /** The templates that were compiled, by the names of what they are rendered in. */
  readonly #compiled = new Map<Names, Map<string, Write>>()

  constructor(sources: ProgramSources) {
    this.#sources = sources
  }

  namesOfPartial(template: string): Names {
    let names = this.#ofPartials.get(template)
    if (!names) this.#ofPartials.set(template, (names = new Names()))
    return names
  }

  template(template: string, names: Names): Write {
    let compiled = this.#compiled.get(names)
    if (!compiled) this.#compiled.set(names, (compiled = new Map()))
    let write = compiled.get(template)
    if (!write) {
      const nodes = this.#sources.tree(template) ?? []
      const { filters, isRecorded } = this.#sources
      write = sequence(nodes, { templates: this, template, names, filters, isRecorded })
      compiled.set(template, write)
    }
    return write
  }

  inputs(fragment: NodeOf<'fragment'>): FragmentInputs {
    return this.#sources.inputs(fragment)
  }

  /**
   * Renders a page.
   * @param data of the page; may have getters that require data
   * @param globals what all templates see
   * @param failed called with an error and the place where it was thrown
   */
  render(
    page: string,
    data: object,
    globals: object,
    services: RenderServices,
    failed: (error: unknown, at: Located) => Error,
  ): string {
    const rendering = new Rendering(services, this.#sources.liquid, { template: page, line: 1, column: 1 })
    const names = this.#ofPages
    try {
      const write = this.template(page, names)
      write(rendering, new Frame(names, globals, data))
      rendering.spend(0)
      return rendering.out
    } catch (error) {
      throw failed(error, rendering.at)
    }
  }
}
