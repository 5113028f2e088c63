/** What is known of comments after a probe: comments were added, pages requested and forms sent, and all of it rolled back. */
import type { CommentField } from '../comments/rules.ts'
import type { CommentState } from '../shapes/content-kinds.ts'

/** A field of a form as a browser sends it. */
export interface FormField {
  name: string
  /** The `type` of an input; `textarea`, `select` or `button`. */
  type: string
  value: string
  /** The longest text that a browser lets readers type; null without a limit. */
  maxLength: number | null
  /** Whether browsers do not send the form without it. */
  isRequired: boolean
}

/** A form on a page. */
export interface PageForm {
  /** In lower case. */
  method: string
  /** The path to which it is sent; null for another site. */
  action: string | null
  encoding: string
  fields: readonly FormField[]
  /** The labels of fields without a name, which a browser does not send. */
  unnamed: number
}

/** What a page shows of the comments that were added. */
export interface CommentedPage {
  path: string
  accepts: 'html' | 'json'
  /** States of comments that it shows to somebody who wrote none of them. */
  shows: readonly CommentState[]
  /** The queries that returned comments which are not shown. */
  unapprovedBy: readonly string[]
  /** What a comment could add to the page’s markup, e.g. `<a zqattr>`; null if it could not. */
  injected: string | null
  /** Whether it has the anchor of a comment on another post. */
  hasForeign: boolean
  /** The queries that returned comments of the post and of another one. */
  foreignBy: readonly string[]
}

/** A form that was filled in and sent as a browser does. */
export interface SentForm {
  status: number
  /** The route that answered. */
  route: string | null
  /** Whether a comment with the text was stored, with all other values that were typed. */
  isStored: boolean
  /** Values that were typed and are not in the stored comment. */
  lost: readonly CommentField[]
  /** Whether the page that follows has the comment, for its writer. */
  isShown: boolean
  /** The page that follows. */
  next: string | null
}

/** A form that was sent with a mistake. */
export interface RejectedForm {
  mistake: string
  status: number
  /** Whether the page says what is wrong. */
  saysWhy: boolean
  /** Whether what was typed is still in the form. */
  keepsTyped: boolean
}

/** What was found when a comment was replied to. */
export interface ReplyProbe {
  /** The page with the comment. */
  page: string
  /** The address of the link to reply; null if the page has none for the comment. */
  link: string | null
  /** Whether the form at that address names the comment as its parent. */
  hasParent: boolean
}

/** The comments of one action. */
export interface CommentProbe {
  /** The route of the action, and the route of the page that follows. */
  action: string
  then: string
  /** The address of the action for a post with comments, and its page. */
  actionPath: string
  page: string
  /** The form for a comment, with a text area: on that page, or on another one that was requested; null without one. */
  form: PageForm | null
  /** The page with the form. */
  formPage: string
  /** Every action of a form on one of the requested pages, as the route that answers it. */
  sentTo: readonly string[]
  pages: readonly CommentedPage[]
  /** How a reader replies to a comment; null if there are no replies, or no form. */
  reply: ReplyProbe | null
  /** Whether the page has the form for a post whose comments are closed. */
  hasFormWhenClosed: boolean
  /** Whether the page still has the form without any comments. */
  hasFormWithoutComments: boolean
  /** The rel of the link to the site that the writer of a comment has given; null if the page does not link to it. */
  siteRel: string | null
  /** Whether the page shows the name with a comment; true if it shows no comment. */
  isNamed: boolean
  /** The most characters of a name and of a text. */
  limits: { name: number; text: number }
  /** The fields that comments may be sent without. */
  optional: readonly string[]
  sent: SentForm | null
  rejected: readonly RejectedForm[]
  /** Comments that one address could add in a row, and how many were tried. */
  rate: { accepted: number; tried: number }
}

/** What pages of posts were found to embed. */
export interface ThreadProbes {
  /** The pages that were requested; none without an outside service. */
  requested: readonly string[]
  threads: readonly ThreadProbe[]
}

/** The thread at an outside service that the page of a post names. */
export interface ThreadProbe {
  route: string
  path: string
  title: string
  thread: string
  /** The same page with something added to its address. */
  other: { path: string; thread: string | null }
  /** The page after the post got a new slug, which is rolled back; null if it was not tried. */
  renamed: { path: string; thread: string | null } | null
}
