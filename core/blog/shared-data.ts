/** Gives routes the data that blog.yaml declares for all of them. */
import { RouteTable } from '../routing/addresses/table.ts'
import type { DataEntry } from '../shapes/schemas.ts'
import type { Definition } from './definition.ts'

type Data = Readonly<Record<string, DataEntry>>

/**
 * Returns the definition whose routes, and whose 404 page, have the shared data that their templates read. What a route
 * declares itself stays as it is.
 */
export function withSharedData(definition: Definition): Definition {
  const { settings, templates } = definition
  const shared = Object.entries(settings.data ?? {})
  if (shared.length === 0) return definition
  /** The shared data of a page that does not declare the same names. */
  const readBy = (template: string, own: Data = {}): Data => {
    const read = templates.names(template).all
    return Object.fromEntries(shared.filter(([name]) => read.has(name) && !Object.hasOwn(own, name)))
  }
  const routes = definition.routes.map((one) => {
    const { template, data } = one.route
    const more = template === undefined ? {} : readBy(template, data)
    const names = Object.keys(more)
    if (names.length === 0) return one
    return { ...one, route: { ...one.route, data: { ...data, ...more } }, shared: new Set(names) }
  })
  const missing = settings['not-found']
  return {
    ...definition,
    settings: missing
      ? {
          ...settings,
          'not-found': { ...missing, data: { ...missing.data, ...readBy(missing.template, missing.data) } },
        }
      : settings,
    routes,
    table: new RouteTable(routes),
  }
}
