/** The comment rules in force: those of the blog, with what a route changes and every default decided. */
import {
  type COMMENT_FIELD_USE,
  type COMMENT_NOTICES,
  type COMMENT_ORDERS,
  type COMMENT_SHOW,
  type CommentRules,
} from '../shapes/comment-rules.ts'
import type { OutsideService } from './outside.ts'
import { readDuration } from '../shapes/duration.ts'

/** The name of a blog at an outside service. */
const SITE = 'blog'

/** The field that people do not see. Programs fill in what looks useful. */
export const HONEYPOT = 'homepage'

export type CommentField = 'name' | 'email' | 'site'
export type FieldUse = (typeof COMMENT_FIELD_USE)[number]

/** Times are in milliseconds. */
export interface RulesInForce {
  accept: boolean
  show: (typeof COMMENT_SHOW)[number]
  fields: Readonly<Record<CommentField, FieldUse>>
  order: (typeof COMMENT_ORDERS)[number]
  depth: number
  pageSize: number
  links: number
  nameLength: number
  textLength: number
  rate: { perAddress: number; perPost: number; within: number }
  /** null: never. */
  closesAfter: number | null
  /** 0: not at all. */
  editableFor: number
  fillTime: number
  honeypot: boolean
  blockedWords: readonly string[]
  /** null: comments are kept here. */
  outside: OutsideService | null
  notify: {
    author: string | null
    about: (typeof COMMENT_NOTICES)[number]
    /** null: an address of the blog's host. */
    from: string | null
    replies: boolean
  }
}

const duration = (text: string | undefined, otherwise: string): number => readDuration(text ?? otherwise) ?? 0

/** @param own what the route of the form changes */
export function commentRules(blog: CommentRules = {}, own: CommentRules = {}): RulesInForce {
  const rules = { ...blog, ...own }
  const rate = { ...blog.rate, ...own.rate }
  const notify = { ...blog.notify, ...own.notify }
  const fields = { ...blog.fields, ...own.fields }
  const closesAfter = rules['closes-after']
  return {
    accept: rules.accept ?? true,
    show: rules.show ?? 'known-writers',
    fields: {
      name: fields.name ?? 'required',
      email: fields.email ?? 'off',
      site: fields.site ?? 'off',
    },
    order: rules.order ?? 'oldest-first',
    depth: rules.depth ?? 2,
    pageSize: rules['page-size'] ?? 50,
    links: rules.links ?? 1,
    nameLength: rules['name-length'] ?? 80,
    textLength: rules['text-length'] ?? 4_000,
    rate: {
      perAddress: rate['per-address'] ?? 5,
      perPost: rate['per-post'] ?? 100,
      within: duration(rate.within, '10m'),
    },
    closesAfter: closesAfter === undefined ? null : duration(closesAfter, '0s'),
    editableFor: duration(rules['editable-for'], '15m'),
    fillTime: duration(rules['fill-time'], '3s'),
    honeypot: rules.honeypot ?? true,
    blockedWords: rules['blocked-words'] ?? [],
    outside: rules.outside ? { site: SITE, identifier: 'id', ...rules.outside } : null,
    notify: {
      author: notify.author ?? null,
      about: notify.about ?? 'waiting',
      from: notify.from ?? null,
      replies: notify.replies ?? false,
    },
  }
}

/** Whether a post can be commented on, apart from what its author has decided for it. */
export const isWithinTime = (
  { accept, outside, closesAfter }: Pick<RulesInForce, 'accept' | 'outside' | 'closesAfter'>,
  publishedAt: Date | null,
  now: Date,
): boolean =>
  accept &&
  outside === null &&
  (closesAfter === null || publishedAt === null || now.getTime() < publishedAt.getTime() + closesAfter)
