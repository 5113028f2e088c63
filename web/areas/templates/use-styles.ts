/** The stylesheets of the blog as they are typed, for the preview. */
import { useQueries } from '@tanstack/react-query'
import { useMemo } from 'react'
import { documentName } from '../../../core/shapes/documents.ts'
import { call } from '../../api/client.ts'
import { useRead } from '../../api/queries.ts'

/** @param texts of documents that are not saved, by path @returns asset name → text */
export function useStyles(texts: Readonly<Record<string, string>>): Readonly<Record<string, string>> {
  const documents = useRead('GET /api/documents', {})
  const paths = (documents.data ?? []).map((one) => one.path).filter((one) => one.endsWith('.css'))
  const stored = useQueries({
    queries: paths.map((path) => ({
      queryKey: ['GET /api/document', { query: { path } }],
      queryFn: () => call('GET /api/document', { query: { path } }),
    })),
    combine: (results) => results.flatMap(({ data }) => (data ? [data] : [])),
  })
  return useMemo(
    () =>
      Object.fromEntries([
        ...stored.map(({ path, text }) => [documentName(path), texts[path] ?? text] as const),
      ]),
    [stored, texts],
  )
}
