/** Applies a change that was shown before: documents together, or a slug. */
import { useQueryClient, type QueryClient } from '@tanstack/react-query'
import { App } from 'antd'
import type { Mend } from '../../../core/checks/finding.ts'
import type { BodyOf } from '../../../contract/operations.ts'
import { ApiProblem, call } from '../../api/client.ts'
import { useUndoNotice } from './undo-notice.tsx'
import { whyRefused } from '../words/why-refused.ts'

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

type DocumentWrite = BodyOf<'PUT /api/documents'>['changes'][number]

const isPost = (path: string) => path.startsWith('content/')

/** Texts by document; null: it is taken out. */
type Texts = Readonly<Record<string, string | null>>

/** Saves texts of documents, and offers to undo that. */
export function useApply() {
  const client = useQueryClient()
  const { message } = App.useApp()
  const tell = useUndoNotice()

  /** @returns the versions afterwards; none of what was taken out */
  async function saveAll(changes: readonly DocumentWrite[]): Promise<Record<string, number>> {
    const versions: Record<string, number> = {}
    const together = changes.filter((one) => !isPost(one.path))
    if (together.length > 0)
      Object.assign(versions, (await call('PUT /api/documents', { body: { changes: together } })).versions)
    for (const { path, text, version } of changes)
      if (isPost(path) && text !== null)
        versions[path] = (await call('PUT /api/document', { body: { path, text, version } })).version
    await refreshDefinition(client)
    return versions
  }

  /**
   * @param made the texts that what is saved was made from, where that was some time ago: with others stored, nothing is
   * @returns whether it was saved
   */
  async function save(texts: Texts, done: string, made: Texts = {}): Promise<boolean> {
    try {
      const changes: DocumentWrite[] = []
      const before: DocumentWrite[] = []
      for (const [path, text] of Object.entries(texts)) {
        const stored = await storedDocument(path)
        const basis = made[path]
        if (basis !== undefined && (basis ?? '') !== stored.text) {
          await refreshDefinition(client)
          throw new Error(`${path} was changed meanwhile; look at what would be changed now, and apply that`)
        }
        changes.push({ path, text, version: stored.version })
        before.push({ path, text: stored.version === 0 ? null : stored.text, version: 0 })
      }
      const versions = await saveAll(changes)
      tell(done, async () => {
        try {
          await saveAll(before.map((one) => ({ ...one, version: versions[one.path] ?? 0 })))
        } catch (error) {
          // What was saved since then is not gone over.
          if (!(error instanceof ApiProblem) || error.details.status !== 409) throw error
          throw new Error('Something newer was saved since; take that back first', { cause: error })
        }
      })
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
      Object.fromEntries(
        one.changes.flatMap(({ document, before }) => (before === undefined ? [] : [[document, before]])),
      ),
    )
  }
  return { save, mend }
}
