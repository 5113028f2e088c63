/** The words for categories, tags and authors. */
import type { Term } from '../../../../contract/operations.ts'
import type { TermKind } from '../../../../core/shapes/content-kinds.ts'
import { plural } from '../../../shared/words/words.ts'

export const TERM_WORDS: Readonly<
  Record<TermKind, { many: 'categories' | 'tags' | 'authors'; what: string }>
> = {
  category: { many: 'categories', what: 'A category has a listing of its own; one can lie in another.' },
  tag: { many: 'tags', what: 'A post may have several tags.' },
  author: { many: 'authors', what: 'A post names who wrote it.' },
}

export function postsInWords({ posts: { published, scheduled, draft } }: Term): string {
  const more = [
    ...(scheduled > 0 ? [`${scheduled} scheduled`] : []),
    ...(draft > 0 ? [plural(draft, 'draft')] : []),
  ]
  return `${plural(published, 'post')}${more.length > 0 ? `, ${more.join(', ')}` : ''}`
}
