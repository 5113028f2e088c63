/** The texts of the Changes area. */
import { plural } from '../../shared/words/format.ts'

const TABLES: Readonly<Record<string, string>> = {
  post: 'post',
  page: 'page',
  category: 'category',
  tag: 'tag',
  author: 'author',
  comment: 'comment',
  image: 'image',
  document: 'document',
  post_tag: 'tag of a post',
  former_slug: 'former slug',
  deleted_row: 'bin',
}

const VERBS = { created: 'created', changed: 'changed', deleted: 'deleted' } as const

export const words = {
  title: 'Changes',
  list: 'Changes, newest first',
  loading: 'Loading changes …',
  empty: 'Nothing has been changed yet. Save a document or a post, and it appears here.',
  emptyFilter: 'No changes of this kind.',
  gone: 'This change is no longer kept.',
  choose: 'Select a change to see it before and after.',
  earlier: 'Show earlier changes',
  filter: 'Show',
  all: 'All',
  content: 'Content',
  definition: 'Definition',
  table: (name: string) => TABLES[name] ?? name,
  verb: (kind: keyof typeof VERBS) => VERBS[kind],
  /** E.g. “Post “Moth” changed: title, slug”. */
  row: (table: string, title: string, kind: keyof typeof VERBS, fields: readonly string[]) => {
    const name = TABLES[table] ?? table
    const what = table === 'document' ? title : `${name.charAt(0).toUpperCase()}${name.slice(1)} “${title}”`
    return kind === 'changed' && table !== 'document'
      ? `${what} ${VERBS[kind]}: ${fields.map((one) => one.replaceAll('_', ' ')).join(', ')}`
      : `${what} ${VERBS[kind]}`
  },
  more: (rows: number) => `and ${plural(rows, 'more row')}`,
  /** A long text is cut before the place that differs. */
  beyond: (field: string) => `${field}: changed further down than is shown here.`,
  outside: 'by another program',
  undoing: 'undoes an earlier change',
  undone: 'undone',
  undo: 'Undo',
  wasUndone: 'The change was undone.',
  isUndone: 'This change is undone.',
  showUndoing: 'Show the undo',
  showUndone: 'Show the change it undoes',
  field: 'Field',
  before: 'Before',
  after: 'After',
  none: 'none',
  created: 'created with these values',
  deleted: 'deleted with these values',
  detail: 'This change',
}
