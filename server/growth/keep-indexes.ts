/** The blog's tables have the indexes that its definition asks for, from now on. */
import type { Blog } from '../reader/blog.ts'
import type { OwnIndexes } from '../store/indexes/own-indexes.ts'

/** @returns a function that ends it */
export function keepIndexes(blog: Blog, indexes: OwnIndexes): () => void {
  const apply = () => void indexes.want(blog.site.definition.indexes, blog.site.definition)
  apply()
  return blog.watchChanges((what) => {
    if (what === 'definition') apply()
  })
}
