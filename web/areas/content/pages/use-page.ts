/** The page that is being written. */
import type { Page } from '../../../../contract/pages.ts'
import { useDraft, type Draft, type Writing } from '../writing/use-draft.ts'

export interface PageParts {
  title: string
  body: string
  inNavigation: boolean
  /** Path of the page above. It is saved with a new page, and changed by moving an existing one. */
  parent: string | null
}

const PAGE: Writing<PageParts, 'GET /api/page'> = {
  kind: 'page',
  empty: { title: '', body: '', inNavigation: false, parent: null },
  read: 'GET /api/page',
  inputOf: (path) => ({ query: { path } }),
  partsOf: ({ title, body, inNavigation, path }) => ({ title, body, inNavigation, parent: parentOf(path) }),
  versionOf: ({ version }) => version,
  titleOf: ({ title }) => title,
  create: async (write, parts) => {
    const { path, ...saved } = await write('POST /api/pages', { body: parts })
    return { name: path, ...saved }
  },
  update: async (write, name, version, { title, body, inNavigation }) => {
    const { path, ...saved } = await write('PUT /api/page', {
      query: { path: name },
      body: { version, title, body, inNavigation },
    })
    return { name: path, ...saved }
  },
  // Readers see every page.
  isAutosaved: () => false,
}

export const parentOf = (path: string): string | null =>
  path.includes('/') ? path.slice(0, path.lastIndexOf('/')) : null

export type PageWork = Draft<PageParts, Page>

/** @param path null for a new page  @param onRenamed called with the new path, and with the first one */
export const usePage = (path: string | null, onRenamed: (path: string) => void): PageWork =>
  useDraft(PAGE, path, onRenamed)
