/** What refreshes what: for each rule, which kinds of change its copies show, and which of these refresh them. */
import type { Change, RowSource } from './change.ts'
import { affected, type Dependence } from './dependence.ts'

/** A kind of change: fields of a row that are changed, or rows that come and go. */
interface ChangeKind {
  source: RowSource
  /** The fields that it changes; absent if a row is created. */
  fields?: readonly string[]
}

/** The kinds of change, in the order of the columns. Time is none of them: it changes no row. */
export const CHANGE_KINDS = {
  'post-text': {
    source: 'posts',
    fields: ['title', 'writtenExcerpt', 'body', 'html', 'wordCount', 'search'],
  },
  'post-slug': { source: 'posts', fields: ['slug'] },
  published: { source: 'posts', fields: ['publishedAt'] },
  category: { source: 'posts', fields: ['categoryId'] },
  'category-name': { source: 'categories', fields: ['name'] },
  tag: { source: 'tags', fields: ['name'] },
  author: { source: 'authors', fields: ['name'] },
  comment: { source: 'comments' },
  'page-tree': { source: 'pages', fields: ['title', 'path', 'position', 'parentId', 'inNavigation'] },
} as const satisfies Record<string, ChangeKind>
export type ChangeKindName = keyof typeof CHANGE_KINDS

export const CHANGE_COLUMNS = [...(Object.keys(CHANGE_KINDS) as ChangeKindName[]), 'time'] as const
export type ChangeColumn = (typeof CHANGE_COLUMNS)[number]

/**
 * `refreshed`: shown, and a change drops the copy. `gap`: shown, and only age refreshes it. `part`: a part of the page is
 * refreshed by age only. `none`: not shown.
 */
export type Cell = 'refreshed' | 'gap' | 'part' | 'none'

/** What a copy shows. */
export interface Shown {
  /** A change of this drops it. */
  dependence: Dependence
  /** This, too, is shown, but only age refreshes it. */
  aged: Dependence
  /** Whether it changes as time passes, and is dropped for it. */
  changesWithTime: boolean
}

/** Returns the row of a rule: what its copies show, taken together. */
export function matrixRow(copies: readonly Shown[], now: Date): Record<ChangeColumn, Cell> {
  const cells = Object.fromEntries(CHANGE_COLUMNS.map((one) => [one, 'none'])) as Record<ChangeColumn, Cell>
  for (const column of CHANGE_COLUMNS) {
    const isShownBy = (one: Dependence) => (column === 'time' ? one.timed : isAffectedBy(column, one, now))
    const isRefreshed = copies.some(
      ({ dependence, changesWithTime }) => isShownBy(dependence) || (column === 'time' && changesWithTime),
    )
    const isAged = copies.some(({ aged }) => isShownBy(aged))
    cells[column] = isAged ? (isRefreshed ? 'part' : 'gap') : isRefreshed ? 'refreshed' : 'none'
  }
  return cells
}

/** Whether some change of a kind affects a dependence. What is not known of the row counts as possible. */
function isAffectedBy(name: ChangeKindName, dependence: Dependence, now: Date): boolean {
  const kind: ChangeKind = CHANGE_KINDS[name]
  const { source, fields } = kind
  const ids = [...dependence.rows.keys()].flatMap((key) => {
    const [of, id] = key.split(':')
    return of === source ? [Number(id)] : []
  })
  // A row that none of the copies shows may still be in one of the sets, now or then.
  return [...ids, -1].some((id) => affected(changeOf(source, id, fields), dependence, now) !== undefined)
}

const changeOf = (source: RowSource, id: number, fields: readonly string[] | undefined): Change =>
  fields
    ? { source, id, kind: 'changed', fields: new Set(fields), before: {}, after: {} }
    : { source, id, kind: 'created', fields: new Set(), before: null, after: {} }
