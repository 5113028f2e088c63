/** Applies a change that was shown before: documents together, or a slug. */
import { useQueryClient, type QueryClient } from '@tanstack/react-query'
import { App } from 'antd'
import type { Mend } from '../../core/checks/finding.ts'
import { ApiProblem, call } from '../api/client.ts'
import { useUndoNotice } from './undo-notice.tsx'
import { whyRefused } from './why-refused.ts'

interface DocumentVersion {
  text: string
  version: number
}

/** The stored text and version of a document; empty and 0 for one that is not there. */
export async function storedDocument(path: string): Promise<DocumentVersion> {
  try {
    const { text, version } = await call('GET /api/document', { query: { path } })
    return { text, version }
  } catch (error) {
    if (error instanceof ApiProblem && error.details.status === 404) return { text: '', version: 0 }
    throw error
  }
}

/** What any screen may show of the definition is asked anew. */
export async function refreshDefinition(client: QueryClient): Promise<void> {
  await Promise.all(
    ['documents', 'document', 'routes', 'addresses', 'suggestions', 'checks', 'unanswered', 'session'].map(
      (key) => client.invalidateQueries({ queryKey: [key] }),
    ),
  )
}

/** Saves texts of documents, and offers to undo that. */
export function useApply() {
  const client = useQueryClient()
  const { message } = App.useApp()
  const tell = useUndoNotice()

  async function saveTexts(
    texts: Readonly<Record<string, string>>,
  ): Promise<Record<string, DocumentVersion>> {
    const before: Record<string, DocumentVersion> = {}
    for (const path of Object.keys(texts)) before[path] = await storedDocument(path)
    const isPost = (path: string) => path.startsWith('content/')
    const changes = Object.entries(texts).map(([path, text]) => ({
      path,
      text,
      version: before[path]?.version ?? 0,
    }))
    const together = changes.filter((one) => !isPost(one.path))
    if (together.length > 0) await call('PUT /api/documents', { body: { changes: together } })
    for (const one of changes.filter((change) => isPost(change.path)))
      await call('PUT /api/document', { body: one })
    await refreshDefinition(client)
    return before
  }

  /** @returns whether it was saved */
  async function save(texts: Readonly<Record<string, string>>, done: string): Promise<boolean> {
    try {
      const before = await saveTexts(texts)
      const isNew = Object.values(before).some((one) => one.version === 0)
      const old = Object.fromEntries(Object.entries(before).map(([path, { text }]) => [path, text]))
      tell(done, isNew ? undefined : async () => void (await saveTexts(old)))
      return true
    } catch (error) {
      void message.error(whyRefused(error), 8)
      return false
    }
  }

  async function mend(one: Mend): Promise<boolean> {
    if (one.remove) {
      const { kind, slug, version } = one.remove
      try {
        const { deleted } = await call('POST /api/term/delete', { query: { kind, slug }, body: { version } })
        await refreshDefinition(client)
        tell(one.after, async () => {
          await call('POST /api/deleted/restore', { body: { deleted } })
          await refreshDefinition(client)
        })
        return true
      } catch (error) {
        void message.error(whyRefused(error), 8)
        return false
      }
    }
    if (one.slug) {
      try {
        const { address } = await call('PUT /api/slug', { body: one.slug })
        await refreshDefinition(client)
        void message.success(address === null ? one.after : `${one.after} ${address}`)
        return true
      } catch (error) {
        void message.error(whyRefused(error), 8)
        return false
      }
    }
    return await save(
      Object.fromEntries(one.changes.map(({ document, text }) => [document, text])),
      one.after,
    )
  }
  return { save, mend }
}
