/** The sources a query may read: their fields, relations, counts and named conditions. */
import type { SourceName } from '../shapes/schemas.ts'

export type FieldType =
  | 'integer'
  | 'text'
  | 'slug'
  | 'path'
  | 'time'
  | 'boolean'
  | 'safe-html'
  /** Words of a text, to be searched with “matches” and nothing else. */
  | 'words'
  /** How well a row fits what was searched; to order by, where a condition searches. */
  | 'relevance'

export interface Field {
  type: FieldType
  /** At most one row has a given value. */
  unique?: boolean
  nullable?: boolean
  /** Long texts are read for one row only, never for a listing. */
  long?: boolean
  /** A part of a time, by the clock of the blog's time zone; to compare with, not to print. */
  partOf?: { time: string; part: 'year' | 'month' | 'day' }
}

export interface Relation {
  source: SourceName | 'images'
  many: boolean
  nullable: boolean
}

export interface Count {
  /** What is counted, in a reader's words. */
  of: string
  /** The sources whose rows decide the count. */
  sources: readonly SourceName[]
}

export interface Source {
  /** Singular and plural, for sentences. */
  words: readonly [string, string]
  fields: Readonly<Record<string, Field>>
  relations: Readonly<Record<string, Relation>>
  counts: Readonly<Record<string, Count>>
  /** Named conditions: name → what it keeps, and the fields that decide it. */
  conditions: Readonly<
    Record<
      string,
      {
        keeps: string
        /** In a sentence; “…” stands for the rows. */
        phrase: string
        fields: readonly string[]
        timed?: boolean
        sources?: readonly SourceName[]
      }
    >
  >
}

const id: Field = { type: 'integer', unique: true }
const slug: Field = { type: 'slug', unique: true }
const text: Field = { type: 'text' }
const one = (source: Relation['source'], nullable = true): Relation => ({ source, many: false, nullable })

/** Names in queries are the author's: a table must not answer to “constructor” and what else every object inherits. */
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
    counts: { commentCount: { of: 'shown comments', sources: ['comments'] } },
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
      postCount: { of: 'published posts', sources: ['posts'] },
      postCountWithin: {
        of: 'published posts, with those of the categories below',
        sources: ['posts', 'categories'],
      },
    },
    conditions: {},
  }),
  tags: source({
    words: ['tag', 'tags'],
    fields: { id, name: text, slug },
    relations: {},
    counts: { postCount: { of: 'published posts', sources: ['posts'] } },
    conditions: {},
  }),
  authors: source({
    words: ['author', 'authors'],
    fields: { id, name: text, slug, about: text },
    relations: {},
    counts: { postCount: { of: 'published posts', sources: ['posts'] } },
    conditions: {},
  }),
  comments: source({
    words: ['comment', 'comments'],
    fields: { id, name: text, text, createdAt: { type: 'time' } },
    relations: { post: one('posts', false) },
    counts: {},
    conditions: {
      shown: {
        keeps: 'approved, on a published post',
        phrase: 'shown …',
        fields: ['state'],
        timed: true,
        sources: ['posts'],
      },
    },
  }),
}

/** Tables behind sources; related ones are pointed at by `RELATION_id`. */
export const TABLE: Readonly<Record<SourceName | 'images', string>> = {
  posts: 'post',
  pages: 'page',
  categories: 'category',
  tags: 'tag',
  authors: 'author',
  comments: 'comment',
  images: 'image',
}

/** Fields of a related row that come with it: enough to name it and link to it. */
export const RELATED_FIELDS: Readonly<Record<SourceName | 'images', readonly string[]>> = {
  posts: ['id', 'title', 'slug'],
  pages: ['id', 'title', 'path'],
  categories: ['id', 'name', 'slug'],
  tags: ['id', 'name', 'slug'],
  authors: ['id', 'name', 'slug', 'about'],
  comments: ['id', 'name', 'text'],
  images: ['id', 'name', 'width', 'height', 'text'],
}

/** Fields of the related images; they belong to a post and are no source of their own. */
export const IMAGE_FIELDS: Readonly<Record<string, Field>> = {
  id,
  name: text,
  width: { type: 'integer' },
  height: { type: 'integer' },
  text,
}
