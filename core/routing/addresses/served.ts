/** What the blog answers before routes are tried. */

/** The addresses of what is served, with the name of a file as `:name`. */
export const SERVED = {
  health: '/healthz',
  font: '/fonts/:name',
  asset: '/assets/:name',
  image: '/media/:name',
  imageSize: '/media/:name/:size',
  avatar: '/avatars/:name',
  /** Where readers confirm and cancel subscriptions to replies. */
  subscription: '/replies-by-mail/:name',
} as const

/** The address of the OpenAPI document, if a route answers with JSON. */
export const API_DOCUMENT = '/openapi.json'

/** Returns true for a path that is served before routes are tried. @param hasApi whether a route answers with JSON */
export const isServed = (path: string, hasApi: boolean): boolean =>
  (hasApi && path === API_DOCUMENT) ||
  Object.values(SERVED).some((served) => {
    const [folder = '', ...names] = served.split(/:\w+\/?/)
    return names.length === 0
      ? path === served
      : path.startsWith(folder) && path.slice(folder.length).split('/').length === names.length
  })
