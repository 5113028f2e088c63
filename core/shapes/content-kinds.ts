/** The kinds of content and the states of a post, as the contract, the server and the workbench name them. */

/** Kinds of rows that have a slug; each is also the name of its table. */
export const SLUG_KINDS = ['post', 'page', 'category', 'tag', 'author'] as const
export type SlugKind = (typeof SLUG_KINDS)[number]

/** Kinds of rows that classify posts. */
export const TERM_KINDS = ['category', 'tag', 'author'] as const
export type TermKind = (typeof TERM_KINDS)[number]

/** Kinds of rows that can be restored after they were deleted. */
export const DELETED_KINDS = [...SLUG_KINDS, 'image'] as const
export type DeletedKind = (typeof DELETED_KINDS)[number]

export const POST_STATES = ['draft', 'scheduled', 'published'] as const
export type PostState = (typeof POST_STATES)[number]

export const POST_SORTS = ['published', '-published', 'updated', '-updated', 'title', '-title'] as const
export type PostSort = (typeof POST_SORTS)[number]

export const COMMENT_STATES = ['waiting', 'shown', 'spam', 'deleted'] as const
export type CommentState = (typeof COMMENT_STATES)[number]
