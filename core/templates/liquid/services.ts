/** Passes the services of a rendering through liquidjs's globals, under a symbol that templates cannot name. */
import type { Context } from 'liquidjs'
import type { RenderServices } from '../scope.ts'

const SERVICES: unique symbol = Symbol('services')

/** Adds the services to the values that every template and partial sees. */
export function withServices(globals: object, services: RenderServices): object {
  Object.defineProperty(globals, SERVICES, { value: services, enumerable: false })
  return globals
}

export function servicesOf(context: Context): RenderServices {
  return (context.globals as { [SERVICES]: RenderServices })[SERVICES]
}
