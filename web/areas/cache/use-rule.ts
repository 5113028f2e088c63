/** Changes cache.yaml, which may not exist yet. */
import { call } from '../../api/client.ts'
import { useChanges } from '../../shared/changes/use-changes.ts'
import { useNotices } from '../../shared/changes/notices.tsx'

const FILE = 'cache.yaml'

/** @returns a function that changes the text of cache.yaml, and says whether it was changed */
export function useRule(): (change: (text: string) => string | undefined, done: string) => Promise<boolean> {
  const { edit, apply } = useChanges()
  const notices = useNotices()
  return async (change, done) => {
    try {
      const documents = await call('GET /api/documents', {})
      if (documents.some((one) => one.path === FILE)) return await edit(FILE, change, done)
      const text = change('') ?? ''
      return text === '' || (await apply([{ do: 'save-document', document: FILE, text, version: 0 }], done))
    } catch (error) {
      notices.failed(error)
      return false
    }
  }
}
