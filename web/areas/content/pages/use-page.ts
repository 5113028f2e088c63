/** One page being written. */
import type { Page } from '../../../../contract/operations.ts'
import { call } from '../../../api/client.ts'
import { useDraft, type Draft, type Writing } from '../writing/use-draft.ts'

export interface PageParts {
  title: string
  body: string
  inNavigation: boolean
  /** Of a new page: the page it will be below. */
  parent: string | null
}

const PAGE: Writing<PageParts, Page> = {
  kind: 'page',
  empty: { title: '', body: '', inNavigation: false, parent: null },
  read: (path) => call('GET /api/page', { query: { path } }),
  partsOf: ({ title, body, inNavigation, path }) => ({ title, body, inNavigation, parent: parentOf(path) }),
  create: async (parts) => {
    const { path, version } = await call('POST /api/pages', { body: parts })
    return { name: path, version }
  },
  update: async (name, version, { title, body, inNavigation }) => {
    const saved = await call('PUT /api/page', {
      query: { path: name },
      body: { version, title, body, inNavigation },
    })
    return { name: saved.path, version: saved.version }
  },
  // A page has no state of its own: readers see what is saved.
  savesItself: () => false,
  tooLarge: 'A page may have 500,000 characters. Your text is still here.',
}

export const parentOf = (path: string): string | null =>
  path.includes('/') ? path.slice(0, path.lastIndexOf('/')) : null

export type PageWork = Draft<PageParts, Page>

/** @param path null for a new page */
export const usePage = (path: string | null, moved: (path: string) => void): PageWork =>
  useDraft(PAGE, path, moved)
