/** A server of documents in memory, for tests of what saves them: it answers `fetch` like the API. */
import { afterEach, beforeEach, vi } from 'vitest'
import type { ChangeStep } from '../../core/shapes/changes.ts'

/** The stored documents, by path. */
export const stored = new Map<string, { text: string; version: number }>()

/** Saves a document, as another user would. */
export const put = (path: string, text: string) =>
  stored.set(path, { text, version: (stored.get(path)?.version ?? 0) + 1 })

export const server: {
  /** Saves wait for it. */
  pause?: Promise<void> | undefined
  /** Whether there is no response. */
  isAway: boolean
} = { isAway: false }

const answer = (status: number, body: object) =>
  new Response(JSON.stringify(body), { status, headers: { 'content-type': 'application/json' } })

type Document = Extract<ChangeStep, { document: string }>

async function respond(
  address: string,
  { method, body }: { method: string; body?: string },
): Promise<Response> {
  if (server.isAway) throw new TypeError('no connection')
  const url = new URL(address, 'http://w.test')
  const path = url.searchParams.get('path') ?? ''
  if (url.pathname === '/api/document' && method === 'GET') {
    const document = stored.get(path)
    return document
      ? answer(200, { path, ...document })
      : answer(404, { code: 'document-unknown', title: `There is no document “${path}”.` })
  }
  if (url.pathname === '/api/document/check') return answer(200, { problems: [] })
  await server.pause
  const sent = JSON.parse(body ?? '{}') as { path: string; text: string; version: number } & {
    steps?: Document[]
    insist?: boolean
  }
  const steps: Document[] = sent.steps ?? [
    { do: 'save-document', document: sent.path, text: sent.text, version: sent.version },
  ]
  for (const step of steps) {
    if ('text' in step && step.text.includes('faulty'))
      return answer(422, {
        code: 'document-invalid',
        title: 'The document is not valid.',
        problems: [{ code: 'faulty', file: step.document, line: 1, message: 'The text is faulty.' }],
      })
    if ('text' in step && step.text.includes('failing') && !sent.insist)
      return answer(422, {
        code: 'address-would-fail',
        title: 'The document is not valid.',
        problems: [
          { code: 'address-would-fail', file: step.document, line: 3, message: '/posts would answer 500.' },
        ],
      })
    const { text = '', version = 0 } = stored.get(step.document) ?? {}
    if (step.version === undefined ? step.basis !== text : step.version !== version)
      return answer(409, {
        code: 'version-conflict',
        title: `${step.document} has been changed.`,
        version,
      })
  }
  const undo: Document[] = []
  const versions: Record<string, number> = {}
  for (const step of steps) {
    const { document } = step
    const before = stored.get(document)
    if (step.do === 'delete-document') stored.delete(document)
    else put(document, step.text)
    const version = stored.get(document)?.version ?? 0
    if (version > 0) versions[document] = version
    undo.unshift(
      before
        ? { do: 'save-document', document, text: before.text, version }
        : { do: 'delete-document', document, version },
    )
  }
  return answer(
    200,
    sent.steps
      ? { undo, versions, addresses: [], purged: [] }
      : { path: sent.path, version: versions[sent.path], purged: [] },
  )
}

beforeEach(() => {
  stored.clear()
  server.pause = undefined
  server.isAway = false
  vi.stubGlobal('fetch', respond)
})
afterEach(() => vi.unstubAllGlobals())
