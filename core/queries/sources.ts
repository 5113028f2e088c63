/** The sources of queries: their fields, relations, counts and named conditions. */
import type { SourceName } from '../shapes/schemas.ts'

export type FieldType =
  | 'integer'
  | 'text'
  | 'slug'
  | 'path'
  | 'time'
  | 'boolean'
  | 'safe-html'
  /** The words of a text; can only be searched with “matches”. */
  | 'words'
  /** How well a row matches the search; only for ordering, and only where a condition searches. */
  | 'relevance'

export interface Field {
  type: FieldType
  /** At most one row has a given value. */
  unique?: boolean
  nullable?: boolean
  /** True for long texts, which are fetched for single rows and never for a listing. */
  long?: boolean
  /** A part of a time in the blog's time zone. It can be compared, ordered and counted by, but is not fetched. */
  partOf?: { time: string; part: 'year' | 'month' | 'day' }
}

export interface Relation {
  source: SourceName | 'images'
  many: boolean
  nullable: boolean
}

/** A count of the rows of another source that lead to a row. SQL and dependences are derived from it. */
export interface Count {
  /** What is counted, as shown to users. */
  of: string
  source: SourceName
  /** The named condition that counted rows satisfy. */
  named: string
  /** The relation of the counted rows that leads to the row. */
  by: string
  /** Whether rows that lead to a row below it count, too. */
  within?: boolean
  /** The table in which the database keeps the count, so that a row with many is counted as fast as one with few. */
  tally?: string
}

export interface Source {
  /** Singular and plural. */
  words: readonly [string, string]
  fields: Readonly<Record<string, Field>>
  relations: Readonly<Record<string, Relation>>
  counts: Readonly<Record<string, Count>>
  /** Named conditions: name → what it keeps, and which fields decide it. */
  conditions: Readonly<
    Record<
      string,
      {
        keeps: string
        /** The phrase in a sentence; “…” is replaced by the rows. */
        phrase: string
        /** The fields that decide it, those of related rows included. */
        fields: readonly string[]
        /** Whether time alone can change it. */
        timed?: boolean
        /** Whether only the product itself uses it. */
        internal?: boolean
      }
    >
  >
}

const id: Field = { type: 'integer', unique: true }
const slug: Field = { type: 'slug', unique: true }
const text: Field = { type: 'text' }
const one = (source: Relation['source'], nullable = true): Relation => ({ source, many: false, nullable })

/** Makes a lookup table without a prototype, so that names such as “constructor” are not found in it. */
const table = <T>(entries: Readonly<Record<string, T>>): Readonly<Record<string, T>> =>
  Object.assign(Object.create(null) as Record<string, T>, entries)

const source = (one: Source): Source => ({
  ...one,
  fields: table(one.fields),
  relations: table(one.relations),
  counts: table(one.counts),
  conditions: table(one.conditions),
})

export const SOURCE: Readonly<Record<SourceName, Source>> = {
  posts: source({
    words: ['post', 'posts'],
    fields: {
      id,
      title: text,
      slug,
      excerpt: text,
      publishedAt: { type: 'time', nullable: true },
      publishedYear: { type: 'integer', nullable: true, partOf: { time: 'publishedAt', part: 'year' } },
      publishedMonth: { type: 'integer', nullable: true, partOf: { time: 'publishedAt', part: 'month' } },
      publishedDay: { type: 'integer', nullable: true, partOf: { time: 'publishedAt', part: 'day' } },
      updatedAt: { type: 'time' },
      wordCount: { type: 'integer' },
      commentsOpen: { type: 'boolean' },
      html: { type: 'safe-html', long: true },
      words: { type: 'words' },
      relevance: { type: 'relevance' },
    },
    relations: {
      category: one('categories'),
      author: one('authors'),
      image: one('images'),
      tags: { source: 'tags', many: true, nullable: false },
    },
    counts: {
      commentCount: {
        of: 'shown comments',
        source: 'comments',
        named: 'approved',
        by: 'post',
        tally: 'comment_tally',
      },
    },
    conditions: {
      published: {
        keeps: 'publication date is set and not in the future',
        phrase: 'published …',
        fields: ['publishedAt'],
        timed: true,
      },
    },
  }),
  pages: source({
    words: ['page', 'pages'],
    fields: {
      id,
      title: text,
      path: { type: 'path', unique: true },
      slug: { type: 'slug' },
      position: { type: 'integer' },
      inNavigation: { type: 'boolean' },
      updatedAt: { type: 'time' },
      html: { type: 'safe-html', long: true },
    },
    relations: { parent: one('pages') },
    counts: {},
    conditions: {
      'in-navigation': {
        keeps: 'shown in the navigation',
        phrase: '… in the navigation',
        fields: ['inNavigation'],
      },
    },
  }),
  categories: source({
    words: ['category', 'categories'],
    fields: { id, name: text, slug, position: { type: 'integer' } },
    relations: { parent: one('categories') },
    counts: {
      postCount: { of: 'published posts', source: 'posts', named: 'published', by: 'category' },
      postCountWithin: {
        of: 'published posts, including those in subcategories',
        source: 'posts',
        named: 'published',
        by: 'category',
        within: true,
      },
    },
    conditions: {},
  }),
  tags: source({
    words: ['tag', 'tags'],
    fields: { id, name: text, slug },
    relations: {},
    counts: { postCount: { of: 'published posts', source: 'posts', named: 'published', by: 'tags' } },
    conditions: {},
  }),
  authors: source({
    words: ['author', 'authors'],
    fields: { id, name: text, slug, about: text },
    relations: {},
    counts: { postCount: { of: 'published posts', source: 'posts', named: 'published', by: 'author' } },
    conditions: {},
  }),
  comments: source({
    words: ['comment', 'comments'],
    fields: {
      id,
      name: text,
      text,
      site: text,
      byAuthor: { type: 'boolean' },
      createdAt: { type: 'time' },
      editedAt: { type: 'time', nullable: true },
      parentId: { type: 'integer', nullable: true },
      depth: { type: 'integer' },
      // Each comment is followed by the replies to it.
      thread: { type: 'text', unique: true },
      // When the comment was written with which the thread starts.
      startedAt: { type: 'time' },
      avatar: { ...text, nullable: true },
    },
    relations: { post: one('posts', false) },
    counts: {},
    conditions: {
      shown: {
        keeps: 'approved, on a published post',
        phrase: 'shown …',
        fields: ['state', 'parentsShown', 'post.publishedAt'],
        timed: true,
      },
      approved: {
        keeps: 'approved',
        phrase: 'approved …',
        fields: ['state', 'parentsShown'],
        internal: true,
      },
    },
  }),
}

/** The table of each source. Foreign keys are named `RELATION_id`. */
export const TABLE: Readonly<Record<SourceName | 'images', string>> = {
  posts: 'post',
  pages: 'page',
  categories: 'category',
  tags: 'tag',
  authors: 'author',
  comments: 'comment',
  images: 'image',
}

/** Fields fetched of a related row: enough to show it and link to it. */
export const RELATED_FIELDS: Readonly<Record<SourceName | 'images', readonly string[]>> = {
  posts: ['id', 'title', 'slug'],
  pages: ['id', 'title', 'path'],
  categories: ['id', 'name', 'slug'],
  tags: ['id', 'name', 'slug'],
  authors: ['id', 'name', 'slug', 'about'],
  comments: ['id', 'name', 'text'],
  images: ['id', 'name', 'width', 'height', 'text'],
}

/** Fields of related images. Images belong to posts and are not a source. */
export const IMAGE_FIELDS: Readonly<Record<string, Field>> = {
  id,
  name: text,
  width: { type: 'integer' },
  height: { type: 'integer' },
  text,
}
