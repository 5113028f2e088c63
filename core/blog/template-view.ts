/** Describes a template on a page: the names at its lines with types and values, the fields it reads, and its faults. */
import type { PageRecorder } from '../templates/authoring/page-recorder.ts'
import { shownValues, type ShownValues } from '../templates/authoring/shown-values.ts'
import { observeTypes } from '../templates/types/analyse.ts'
import type { TemplateFault } from '../templates/types/faults.ts'
import type { TypedPage } from '../templates/types/typed-page.ts'
import { canBeEmpty, either, kindInWords, type Type } from '../templates/types/type.ts'
import { analysedTemplates, typedPages } from './data-types.ts'
import type { Definition } from './definition.ts'

export interface TemplateView {
  scopes: ShownValues[]
  /** The scope at each line that has a part of the template. */
  lines: { line: number; scope: number; isRendered: boolean }[]
  reads: { path: string; type: string; canBeEmpty: boolean; lines: number[] }[]
  faults: TemplateFault[]
}

/** Returns the page of a route with the types of its data; null stands for the 404 page. */
export function pageOf(definition: Definition, route: string | null): TypedPage | undefined {
  for (const page of typedPages(definition)) if (page.route === route) return page
  return undefined
}

/**
 * @param page that renders the template, with the types of its data
 * @param recorder of a rendering of that page
 */
export function templateView(
  definition: Definition,
  template: string,
  page: TypedPage | undefined,
  recorder: PageRecorder | undefined,
): TemplateView {
  const types = new Map<number, ReadonlyMap<string, Type>>()
  const reads = new Map<string, { type: Type; lines: Set<number> }>()
  if (page)
    observeTypes((name) => definition.templates.tree(name), page, {
      node(of, { line }, { names, narrowed }) {
        if (of !== template || types.has(line)) return
        const all = new Map([...names, ...page.globals])
        for (const name of all.keys()) {
          const known = narrowed.get(name) ?? names.get(name)
          if (known) all.set(name, known)
        }
        types.set(line, all)
      },
      path(of, { line }, path, type) {
        if (of !== template) return
        const known = reads.get(path)
        if (known) {
          known.type = either(known.type, type)
          known.lines.add(line)
        } else reads.set(path, { type, lines: new Set([line]) })
      },
    })
  const { scopes, lines } = distinctScopes(types, recorder)
  return {
    scopes,
    lines,
    reads: [...reads]
      .sort(([a], [b]) => a.localeCompare(b))
      .map(([path, { type, lines: at }]) => ({
        path,
        type: kindInWords(type),
        canBeEmpty: type.kind !== 'nothing' && canBeEmpty(type),
        lines: [...at].sort((a, b) => a - b),
      })),
    faults: analysedTemplates(definition).faults.filter((one) => one.template === template),
  }
}

/** Lines whose names have the same types and values share a scope. */
function distinctScopes(
  types: ReadonlyMap<number, ReadonlyMap<string, Type>>,
  recorder: PageRecorder | undefined,
) {
  const ids = new Map<unknown, number>()
  const idOf = (value: unknown): number => {
    const known = ids.get(value)
    if (known !== undefined) return known
    ids.set(value, ids.size)
    return ids.size - 1
  }
  const scopes: ShownValues[] = []
  const known = new Map<string, number>()
  const lines: TemplateView['lines'] = []
  const all = new Set([...types.keys(), ...(recorder?.values.keys() ?? [])])
  for (const line of [...all].sort((a, b) => a - b)) {
    const values = recorder?.values.get(line)
    const typed = types.get(line) ?? new Map<string, Type>()
    const key = JSON.stringify([
      [...typed].map(([name, type]) => [name, idOf(type)]),
      [...(values ?? [])].map(([name, one]) => [name, 'value' in one ? idOf(one.value) : -1]),
    ])
    let scope = known.get(key)
    if (scope === undefined) {
      scope = scopes.push(shownValues(values, typed)) - 1
      known.set(key, scope)
    }
    lines.push({ line, scope, isRendered: values !== undefined })
  }
  return { scopes, lines }
}
