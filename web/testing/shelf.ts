/** Documents as the API keeps them, for tests of what saves them: `fetch` is answered from here. */
import { afterEach, beforeEach, vi } from 'vitest'

export const shelf = new Map<string, { text: string; version: number }>()
/** As anybody saves it. */
export const put = (path: string, text: string) =>
  shelf.set(path, { text, version: (shelf.get(path)?.version ?? 0) + 1 })

export const weather: {
  /** A save waits for this. */
  pause?: Promise<void> | undefined
  /** Nobody answers. */
  isAway: boolean
} = { isAway: false }

const answer = (status: number, body: object) =>
  new Response(JSON.stringify(body), { status, headers: { 'content-type': 'application/json' } })

interface Write {
  path: string
  text: string | null
  version: number
}

async function api(address: string, { method, body }: { method: string; body?: string }): Promise<Response> {
  if (weather.isAway) throw new TypeError('nobody there')
  const url = new URL(address, 'http://w.test')
  const sent = JSON.parse(body ?? '{}') as Write & { changes?: Write[] }
  const path = url.searchParams.get('path') ?? sent.path
  const stored = shelf.get(path)
  if (method === 'GET')
    return stored
      ? answer(200, { path, ...stored })
      : answer(404, { title: `There is no document “${path}”` })
  if (method === 'POST') return answer(200, { problems: [] })
  await weather.pause
  const writes = sent.changes ?? [sent]
  for (const one of writes) {
    if (one.text?.includes('faulty'))
      return answer(422, {
        title: 'Not saved',
        problems: [{ file: one.path, line: 1, message: 'is faulty' }],
      })
    const version = shelf.get(one.path)?.version ?? 0
    if (version !== one.version) return answer(409, { title: 'Somebody else saved this meanwhile', version })
  }
  const versions: Record<string, number> = {}
  for (const one of writes)
    if (one.text === null) shelf.delete(one.path)
    else {
      put(one.path, one.text)
      versions[one.path] = shelf.get(one.path)?.version ?? 0
    }
  return answer(200, sent.changes ? { versions } : { path, version: versions[path], purged: [] })
}

beforeEach(() => {
  shelf.clear()
  weather.pause = undefined
  weather.isAway = false
  vi.stubGlobal('fetch', api)
})
afterEach(() => vi.unstubAllGlobals())
