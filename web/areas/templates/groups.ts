/** The documents of the Templates area in groups, each with the routes that use it. */
import type { DocumentSummary } from '../../../contract/documents.ts'
import type { RouteSummary } from '../../../contract/routes.ts'
import { documentName, templatePath } from '../../../core/shapes/documents.ts'

export type Group = 'layouts' | 'pages' | 'partials' | 'assets' | 'other'

export const GROUPS: readonly Group[] = ['layouts', 'pages', 'partials', 'assets', 'other']

export function groupOf(path: string): Group {
  const [, folder] = /^templates\/(layouts|pages|partials)\//.exec(path) ?? []
  if (folder !== undefined) return folder as Group
  return path.startsWith('assets/') ? 'assets' : 'other'
}

/** Returns the name of a document within its group: `card`, `blog.css`. */
export const nameInGroup = (path: string): string =>
  documentName(path).replace(/^(layouts|pages|partials)\//, '')

export interface Users {
  /** The routes whose pages contain the document. */
  routes: RouteSummary[]
  /** Whether the page for addresses that are not found contains it. */
  isNotFound: boolean
}

/** An address that no route answers, whose page is the 404 page. */
const NOWHERE = '/no-such-address'

/** Finds all routes whose pages contain a document, through layouts and partials. */
export function usersOf(
  path: string,
  documents: readonly DocumentSummary[],
  routes: readonly RouteSummary[],
): Users {
  const usedBy = new Map(documents.map((one) => [one.path, one.usedBy]))
  const found = new Set<string>()
  const waiting = [path]
  for (let next = waiting.pop(); next !== undefined; next = waiting.pop()) {
    if (found.has(next)) continue
    found.add(next)
    waiting.push(...(usedBy.get(next) ?? []))
  }
  return {
    routes: routes.filter((one) => one.template !== null && found.has(templatePath(one.template))),
    isNotFound: found.has('blog.yaml'),
  }
}

/** Returns an address whose page contains the document; undefined if there is none. */
export function addressWith({ routes, isNotFound }: Users): string | undefined {
  return routes.find((one) => one.example !== null)?.example ?? (isNotFound ? NOWHERE : undefined)
}
