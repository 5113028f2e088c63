// What an author types is never lost: not by a reload, a refusal, someone else's save, or a missing connection.
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { act, renderHook, waitFor } from '@testing-library/react'
import { App } from 'antd'
import type { ReactNode } from 'react'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { AnswerOf } from '../../../../contract/operations.ts'
import { ApiProblem } from '../../../api/client.ts'
import '../../../testing/dom.ts'
import { useDraft, type Writing } from './use-draft.ts'

interface Text {
  title: string
  isPublic: boolean
}
interface Stored extends Text {
  version: number
}

/** A server that stores texts by name. It answers the operations on pages. */
class TextServer {
  readonly texts = new Map<string, Stored>()
  /** Thrown by the next write. */
  refusal: Error | undefined
  /** Whether reads fail. */
  isDeaf = false
  /** Writes wait for it. */
  pause: Promise<void> | undefined
  writes = 0

  readonly writing: Writing<Text, 'GET /api/page'> = {
    kind: 'page',
    empty: { title: '', isPublic: false },
    read: 'GET /api/page',
    inputOf: (path) => ({ query: { path } }),
    partsOf: ({ title, inNavigation }) => ({ title, isPublic: inNavigation }),
    versionOf: ({ version }) => version,
    titleOf: ({ title }) => title,
    create: (_, parts) => this.#write(parts.title.toLowerCase().replaceAll(' ', '-'), 0, parts),
    update: (_, name, version, parts) => this.#write(name, version, parts),
    isAutosaved: ({ isPublic }, stored) => !isPublic && stored?.inNavigation !== true,
  }

  respond = (address: string): Response => {
    const path = new URL(address, 'http://w.test').searchParams.get('path') ?? ''
    const found = this.texts.get(path)
    if (this.isDeaf) throw new TypeError('no connection')
    if (!found)
      return Response.json({ code: 'row-unknown', title: `There is no page “${path}”.` }, { status: 404 })
    const { title, isPublic, version } = found
    const page: Partial<AnswerOf<'GET /api/page'>> = { path, title, inNavigation: isPublic, version }
    return Response.json(page)
  }

  async #write(name: string, version: number, parts: Text) {
    this.writes++
    await this.pause
    if (this.refusal) {
      const refusal = this.refusal
      this.refusal = undefined
      throw refusal
    }
    const now = this.texts.get(name)?.version ?? 0
    if (now !== version)
      throw problem(409, 'version-conflict', {
        version: now,
        text: this.texts.get(name)?.title ?? '',
      })
    this.texts.set(name, { ...parts, version: version + 1 })
    return { name, version: version + 1, purged: [] }
  }
}

const problem = (status: number, code: string, more: object = {}) =>
  new ApiProblem({ type: 'about:blank', code, status, title: 'Not saved.', ...more })

let server: TextServer
beforeEach(() => {
  server = new TextServer()
  vi.stubGlobal('fetch', (address: string) => Promise.resolve().then(() => server.respond(address)))
  server.texts.set('kettle', { title: 'Kettle', isPublic: true, version: 3 })
  server.texts.set('idea', { title: 'Idea', isPublic: false, version: 1 })
})
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

const kept = (name: string | null) => localStorage.getItem(`esquina page ${name ?? '(new)'}`)

/** Opens a text like a screen does. It can be closed and opened again, as by a reload. */
function open(name: string | null) {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } })
  const onRenamed = vi.fn<(name: string) => void>()
  const wrapper = ({ children }: { children: ReactNode }) => (
    <QueryClientProvider client={client}>
      <App>{children}</App>
    </QueryClientProvider>
  )
  const { result, unmount } = renderHook(() => useDraft(server.writing, name, onRenamed), { wrapper })
  const isOpen = () =>
    waitFor(() => {
      if (name !== null) expect(result.current.stored ?? result.current.error).toBeTruthy()
    })
  return {
    result,
    onRenamed,
    unmount,
    isOpen,
    edit: (title: string, isPublic = true) => act(() => result.current.edit({ title, isPublic })),
    save: (version?: number) => act(() => result.current.saveNow(version)),
  }
}

describe('typed text', () => {
  it('is not accepted before the stored row is known, whose other parts it would empty', async () => {
    const first = open('kettle')
    expect(first.result.current.isOpening).toBe(true)
    first.edit('K')
    await first.isOpen()
    expect(first.result.current).toMatchObject({
      parts: { title: 'Kettle' },
      isOpening: false,
      isChanged: false,
    })
    expect(kept('kettle')).toBeNull()
  })

  it('is stored until it is saved, and restored after a reload', async () => {
    const first = open('kettle')
    await first.isOpen()
    first.edit('Kettle, repaired')
    expect([first.result.current.isChanged, first.result.current.isRestored]).toEqual([true, false])
    first.unmount()

    const second = open('kettle')
    await second.isOpen()
    expect(second.result.current).toMatchObject({
      parts: { title: 'Kettle, repaired' },
      isChanged: true,
      isRestored: true,
    })
    await second.save()
    expect(server.texts.get('kettle')).toMatchObject({ title: 'Kettle, repaired', version: 4 })
    expect(second.result.current).toMatchObject({ isChanged: false, save: { kind: 'saved' } })
    expect(kept('kettle')).toBeNull()
  })

  it('conflicts with what someone else has saved, also after a reload', async () => {
    const first = open('kettle')
    await first.isOpen()
    first.edit('Mine')
    first.unmount()
    server.texts.set('kettle', { title: 'Theirs', isPublic: true, version: 4 })

    const second = open('kettle')
    await second.isOpen()
    await second.save()
    expect(second.result.current.save).toEqual({ kind: 'conflict', version: 4, text: 'Theirs' })
    expect(second.result.current.parts.title).toBe('Mine')
    // The conflict stays while typing continues.
    second.edit('Mine, still')
    expect(second.result.current.save.kind).toBe('conflict')
    await second.save(4)
    expect(server.texts.get('kettle')).toMatchObject({ title: 'Mine, still', version: 5 })
  })

  it('can be replaced with the saved version', async () => {
    const { result, edit, isOpen, save } = open('kettle')
    await isOpen()
    edit('Mine')
    server.texts.set('kettle', { title: 'Theirs', isPublic: true, version: 4 })
    await save()
    await act(() => result.current.useStored())
    expect(result.current).toMatchObject({
      parts: { title: 'Theirs' },
      isChanged: false,
      save: { kind: 'idle' },
    })
    expect(kept('kettle')).toBeNull()
  })

  it('can be discarded', async () => {
    const { result, edit, isOpen } = open('kettle')
    await isOpen()
    edit('A slip')
    act(() => result.current.discard())
    expect([result.current.parts.title, result.current.isChanged, kept('kettle')]).toEqual([
      'Kettle',
      false,
      null,
    ])
  })

  it('that is typed during a save stays, and is based on the saved version', async () => {
    const { result, edit, isOpen, onRenamed } = open('kettle')
    await isOpen()
    edit('One')
    let go = () => {}
    server.pause = new Promise((done) => (go = done))
    let saving = Promise.resolve()
    act(() => void (saving = result.current.saveNow()))
    edit('One and two')
    go()
    await act(() => saving)
    expect(server.writes).toBe(1)
    expect(server.texts.get('kettle')).toMatchObject({ title: 'One', version: 4 })
    expect(result.current).toMatchObject({ parts: { title: 'One and two' }, isChanged: true })
    expect(JSON.parse(kept('kettle') ?? '')).toEqual({
      version: 4,
      parts: { title: 'One and two', isPublic: true },
    })
    server.pause = undefined
    await act(() => result.current.saveNow())
    expect(server.texts.get('kettle')).toMatchObject({ title: 'One and two', version: 5 })
    expect(onRenamed).not.toHaveBeenCalled()
  })

  it('is saved after the save in progress, if the author saves meanwhile', async () => {
    const { result, edit, isOpen } = open('kettle')
    await isOpen()
    edit('One')
    let go = () => {}
    server.pause = new Promise((done) => (go = done))
    let saving = Promise.resolve()
    act(() => void (saving = result.current.saveNow()))
    edit('One and two')
    await act(() => result.current.saveNow())
    expect(server.writes).toBe(1)
    go()
    await act(() => saving)
    await waitFor(() =>
      expect(server.texts.get('kettle')).toMatchObject({ title: 'One and two', version: 5 }),
    )
    await waitFor(() => expect(result.current).toMatchObject({ isChanged: false, save: { kind: 'saved' } }))
    expect([server.writes, kept('kettle')]).toEqual([2, null])
  })

  it('before the address has the name of a new row belongs to that row', async () => {
    // The screen of this test never gets the name.
    const { result, edit, save, onRenamed } = open(null)
    edit('A bell')
    await save()
    edit('A bell')
    edit('A bell with a crack')
    expect(kept(null)).toBeNull()
    expect(JSON.parse(kept('a-bell') ?? '')).toMatchObject({ version: 1 })
    await save()
    expect([...server.texts.keys()]).toEqual(['kettle', 'idea', 'a-bell'])
    expect(server.texts.get('a-bell')).toMatchObject({ title: 'A bell with a crack', version: 2 })
    expect([result.current.save.kind, kept(null), kept('a-bell')]).toEqual(['saved', null, null])
    expect(onRenamed.mock.lastCall).toEqual(['a-bell'])
  })

  it('of a new row is stored without a name until the row has one', async () => {
    const first = open(null)
    first.edit('A bell', false)
    expect(kept(null)).toContain('A bell')
    await first.save()
    expect([kept(null), kept('a-bell')]).toEqual([null, null])
    expect(first.onRenamed).toHaveBeenCalledWith('a-bell')
    // Until the screen has the new name, the shown text does not change.
    expect(first.result.current.parts.title).toBe('A bell')
  })
})

describe('a refused save', () => {
  it.each([
    [422, 'row-invalid', { detail: 'The title is empty.' }, 'The title is empty.'],
    [413, 'request-too-large', {}, expect.stringContaining('500,000') as string],
    [0, 'workbench-unavailable', { detail: 'Check it.' }, 'Check it.'],
    [409, 'slug-taken', { detail: 'Choose another.' }, 'Choose another.'],
  ])('with %i keeps the text, and can be repeated', async (status, code, more, detail) => {
    const { result, edit, isOpen, save } = open('kettle')
    await isOpen()
    edit('Kettle, repaired')
    server.refusal = problem(status, code, more)
    await save()
    expect(result.current.save).toEqual({
      kind: 'refused',
      title: 'Not saved.',
      detail,
      problems: [],
    })
    expect([result.current.parts.title, kept('kettle')]).toEqual([
      'Kettle, repaired',
      expect.stringContaining('Kettle, repaired'),
    ])
    await save()
    expect(result.current.save.kind).toBe('saved')
  })

  it('is not reported if only the read after the save failed', async () => {
    const { result, edit, isOpen } = open('kettle')
    await isOpen()
    edit('Kettle, repaired')
    let go = () => {}
    server.pause = new Promise((done) => (go = done))
    let saving = Promise.resolve()
    act(() => void (saving = result.current.saveNow()))
    server.isDeaf = true
    go()
    await act(() => saving)
    expect(result.current.save.kind).toBe('saved')
    server.isDeaf = false
    server.pause = undefined
    edit('Kettle, repaired twice')
    await act(() => result.current.saveNow())
    expect(result.current.save.kind).toBe('saved')
    expect(server.texts.get('kettle')).toMatchObject({ title: 'Kettle, repaired twice', version: 5 })
  })

  it('an error of our own is not swallowed', async () => {
    const { result, edit, isOpen } = open('kettle')
    await isOpen()
    edit('x')
    server.refusal = new TypeError('x is not a function')
    await expect(act(() => result.current.saveNow())).rejects.toThrow('x is not a function')
  })
})

describe('a text that readers do not see is saved automatically', () => {
  it('once, shortly after the last change', async () => {
    const { edit, isOpen, result } = open('idea')
    await isOpen()
    vi.useFakeTimers()
    edit('Idea one', false)
    await act(() => vi.advanceTimersByTimeAsync(2_000))
    edit('Idea two', false)
    await act(() => vi.advanceTimersByTimeAsync(2_000))
    expect(server.writes).toBe(0)
    await act(() => vi.advanceTimersByTimeAsync(600))
    expect([server.writes, server.texts.get('idea')?.title]).toEqual([1, 'Idea two'])
    expect(result.current.isChanged).toBe(false)
    await act(() => vi.advanceTimersByTimeAsync(60_000))
    expect(server.writes).toBe(1)
  })
  it.each([
    ['what readers see', 'kettle', true],
    ['what readers are going to see', 'idea', true],
    ['what is going to be hidden', 'kettle', false],
  ])('except %s', async (_, name, isPublic) => {
    const { edit, isOpen } = open(name)
    await isOpen()
    vi.useFakeTimers()
    edit('Changed', isPublic)
    await act(() => vi.advanceTimersByTimeAsync(60_000))
    expect(server.writes).toBe(0)
  })
  it('but not repeatedly after a refusal', async () => {
    const { edit, isOpen } = open('idea')
    await isOpen()
    vi.useFakeTimers()
    server.refusal = problem(422, 'row-invalid')
    edit('Bad', false)
    await act(() => vi.advanceTimersByTimeAsync(60_000))
    expect(server.writes).toBe(1)
    edit('Better', false)
    await act(() => vi.advanceTimersByTimeAsync(3_000))
    expect([server.writes, server.texts.get('idea')?.title]).toEqual([2, 'Better'])
  })
})

describe('the browser', () => {
  const leaves = () => !window.dispatchEvent(new Event('beforeunload', { cancelable: true }))
  it('warns before unsaved text is lost, and only then', async () => {
    const { edit, isOpen, result, unmount } = open('kettle')
    await isOpen()
    expect(leaves()).toBe(false)
    edit('Kettle, repaired')
    expect(leaves()).toBe(true)
    edit('Kettle')
    expect([result.current.isChanged, leaves()]).toEqual([false, false])
    edit('Again')
    unmount()
    expect(leaves()).toBe(false)
  })
  it.each([{ ctrlKey: true }, { metaKey: true }])('saves with the key and %j', async (modifier) => {
    const { edit, isOpen } = open('kettle')
    await isOpen()
    edit('By key')
    const event = new KeyboardEvent('keydown', { key: 'S', cancelable: true, ...modifier })
    await act(async () => void window.dispatchEvent(event))
    expect(event.defaultPrevented).toBe(true)
    await waitFor(() => expect(server.texts.get('kettle')?.title).toBe('By key'))
    await act(async () => void window.dispatchEvent(new KeyboardEvent('keydown', { key: 's' })))
    expect(server.writes).toBe(1)
  })
  it('may store something else, or nothing', async () => {
    localStorage.setItem('esquina page kettle', '{broken')
    const { edit, isOpen, result, save } = open('kettle')
    await isOpen()
    expect(result.current).toMatchObject({
      parts: { title: 'Kettle' },
      isChanged: false,
      isRestored: false,
    })
    const full = vi.spyOn(Storage.prototype, 'setItem').mockImplementation(() => {
      throw new DOMException('full', 'QuotaExceededError')
    })
    edit('Kettle, repaired')
    await save()
    full.mockRestore()
    expect(server.texts.get('kettle')?.title).toBe('Kettle, repaired')
  })
})
