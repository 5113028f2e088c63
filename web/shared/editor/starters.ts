/** Starter texts of new documents. */
import { documentKind } from '../../../core/shapes/documents.ts'

const QUERY = `from: posts
where:
  - published
order: [-publishedAt]
take: first 5
`

const CACHE = '# pages:\n#   ROUTE: { refresh: by-age, lifetime: 1h }\n'

/** Returns the text that a new document starts with, or undefined if no document may have that path. */
export function starterOf(path: string): string | undefined {
  switch (documentKind(path)) {
    case 'template':
      return '<!-- What this part of the page shows. -->\n'
    case 'asset':
      return path.endsWith('.css') ? '/* Styles of the blog. */\n' : '// A script of the blog.\n'
    case 'query':
      return QUERY
    case 'cache':
      return CACHE
    default:
      return undefined
  }
}
