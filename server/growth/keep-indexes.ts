/** Keeps the indexes of the database in line with the definition. */
import type { ChangePort, SitePort } from '../publish/ports.ts'
import type { OwnIndexes } from '../store/indexes/own-indexes.ts'

/** Builds and drops indexes now and whenever the definition changes. @returns a function that stops it */
export function keepIndexes(blog: SitePort & ChangePort, indexes: OwnIndexes): () => void {
  const apply = () => void indexes.want(blog.site.definition.indexes, blog.site.definition)
  apply()
  return blog.watchChanges((what) => {
    if (what === 'definition') apply()
  })
}
