// What an author types is never lost: not by a reload, a refusal, somebody else's save, or a server that is away.
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { act, renderHook, waitFor } from '@testing-library/react'
import type { ReactNode } from 'react'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
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

/** A server that keeps texts by name, as the API does. */
class Shelf implements Writing<Text, Stored> {
  readonly kind = 'text'
  readonly empty: Text = { title: '', isPublic: false }
  readonly tooLarge = 'Two million characters are the most.'
  readonly texts = new Map<string, Stored>()
  /** Thrown by the next write, or by the next read. */
  refusal: ApiProblem | undefined
  isDeaf = false
  /** Writes wait for this. */
  pause: Promise<void> | undefined
  writes = 0

  read = async (name: string): Promise<Stored> => {
    const found = this.texts.get(name)
    if (this.isDeaf) throw problem(0, 'Esquina does not answer')
    if (!found) throw problem(404, `There is no text “${name}”`)
    return { ...found }
  }
  partsOf = ({ title, isPublic }: Stored): Text => ({ title, isPublic })
  create = (parts: Text) => this.#write(parts.title.toLowerCase().replaceAll(' ', '-'), 0, parts)
  update = (name: string, version: number, parts: Text) => this.#write(name, version, parts)
  savesItself = ({ isPublic }: Text, stored: Stored | undefined) => !isPublic && stored?.isPublic !== true

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
      throw problem(409, 'Somebody else saved it', { version: now, text: this.texts.get(name)?.title ?? '' })
    this.texts.set(name, { ...parts, version: version + 1 })
    return { name, version: version + 1 }
  }
}

const problem = (status: number, title: string, more: object = {}) =>
  new ApiProblem({ type: 'about:blank', status, title, ...more })

let shelf: Shelf
beforeEach(() => {
  shelf = new Shelf()
  shelf.texts.set('kettle', { title: 'Kettle', isPublic: true, version: 3 })
  shelf.texts.set('idea', { title: 'Idea', isPublic: false, version: 1 })
})
afterEach(() => vi.useRealTimers())

const kept = (name: string | null) => localStorage.getItem(`esquina text ${name ?? '(new)'}`)

/** Opens a text as a screen does; it may be closed and opened again, as by a reload. */
function open(name: string | null) {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } })
  const moved = vi.fn<(name: string) => void>()
  const wrapper = ({ children }: { children: ReactNode }) => (
    <QueryClientProvider client={client}>{children}</QueryClientProvider>
  )
  const { result, unmount } = renderHook(() => useDraft(shelf, name, moved), { wrapper })
  const isOpen = () =>
    waitFor(() => {
      if (name !== null) expect(result.current.stored ?? result.current.error).toBeTruthy()
    })
  return {
    result,
    moved,
    unmount,
    isOpen,
    edit: (title: string, isPublic = true) => act(() => result.current.edit({ title, isPublic })),
    save: (version?: number) => act(() => result.current.saveNow(version)),
  }
}

describe('what is typed', () => {
  it('is kept until it is saved, and brought back by a reload', async () => {
    const first = open('kettle')
    await first.isOpen()
    first.edit('Kettle, mended')
    expect([first.result.current.isChanged, first.result.current.isBroughtBack]).toEqual([true, false])
    first.unmount()

    const second = open('kettle')
    await second.isOpen()
    expect(second.result.current).toMatchObject({
      parts: { title: 'Kettle, mended' },
      isChanged: true,
      isBroughtBack: true,
    })
    await second.save()
    expect(shelf.texts.get('kettle')).toMatchObject({ title: 'Kettle, mended', version: 4 })
    expect(second.result.current).toMatchObject({ isChanged: false, save: { kind: 'saved' } })
    expect(kept('kettle')).toBeNull()
  })

  it('is a conflict with what somebody saved meanwhile, also after a reload', async () => {
    const first = open('kettle')
    await first.isOpen()
    first.edit('Mine')
    first.unmount()
    shelf.texts.set('kettle', { title: 'Theirs', isPublic: true, version: 4 })

    const second = open('kettle')
    await second.isOpen()
    await second.save()
    expect(second.result.current.save).toEqual({ kind: 'conflict', version: 4, text: 'Theirs' })
    expect(second.result.current.parts.title).toBe('Mine')
    // Typing on does not make it go away.
    second.edit('Mine, still')
    expect(second.result.current.save.kind).toBe('conflict')
    await second.save(4)
    expect(shelf.texts.get('kettle')).toMatchObject({ title: 'Mine, still', version: 5 })
  })

  it('may be given up for theirs', async () => {
    const { result, edit, isOpen, save } = open('kettle')
    await isOpen()
    edit('Mine')
    shelf.texts.set('kettle', { title: 'Theirs', isPublic: true, version: 4 })
    await save()
    await act(() => result.current.takeStored())
    expect(result.current).toMatchObject({
      parts: { title: 'Theirs' },
      isChanged: false,
      save: { kind: 'idle' },
    })
    expect(kept('kettle')).toBeNull()
  })

  it('may be discarded', async () => {
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

  it('while it is saved is not saved yet: it stays, and begins from the version just made', async () => {
    const { result, edit, isOpen, moved } = open('kettle')
    await isOpen()
    edit('One')
    let go = () => {}
    shelf.pause = new Promise((done) => (go = done))
    let saving = Promise.resolve()
    act(() => void (saving = result.current.saveNow()))
    edit('One and two')
    // A second save while the first is under way is not sent.
    await act(() => result.current.saveNow())
    go()
    await act(() => saving)
    expect(shelf.writes).toBe(1)
    expect(shelf.texts.get('kettle')).toMatchObject({ title: 'One', version: 4 })
    expect(result.current).toMatchObject({ parts: { title: 'One and two' }, isChanged: true })
    expect(JSON.parse(kept('kettle') ?? '')).toEqual({
      version: 4,
      parts: { title: 'One and two', isPublic: true },
    })
    shelf.pause = undefined
    await act(() => result.current.saveNow())
    expect(shelf.texts.get('kettle')).toMatchObject({ title: 'One and two', version: 5 })
    expect(moved).not.toHaveBeenCalled()
  })

  it('of a new text is kept under no name, then under the name it got', async () => {
    const first = open(null)
    first.edit('A bell', false)
    expect(kept(null)).toContain('A bell')
    await first.save()
    expect([kept(null), kept('a-bell')]).toEqual([null, null])
    expect(first.moved).toHaveBeenCalledWith('a-bell')
    // Until the screen has the new name, what is shown does not change under the cursor.
    expect(first.result.current.parts.title).toBe('A bell')
  })
})

describe('a save that is refused', () => {
  it.each([
    [422, 'It is not valid', { detail: 'title is empty' }, 'title is empty'],
    [413, 'The request is too large', {}, 'Two million characters are the most.'],
    [0, 'Esquina does not answer', { detail: 'Is it still running?' }, 'Is it still running?'],
    [409, 'Another text has this name', { detail: 'choose another' }, 'choose another'],
  ])('with %i: what was typed stays, and it can be tried again', async (status, title, more, detail) => {
    const { result, edit, isOpen, save } = open('kettle')
    await isOpen()
    edit('Kettle, mended')
    shelf.refusal = problem(status, title, more)
    await save()
    expect(result.current.save).toEqual({ kind: 'refused', title, detail, problems: [] })
    expect([result.current.parts.title, kept('kettle')]).toEqual([
      'Kettle, mended',
      expect.stringContaining('Kettle, mended'),
    ])
    await save()
    expect(result.current.save.kind).toBe('saved')
  })

  it('is none when it was saved and only the answer to the next question is missing', async () => {
    const { result, edit, isOpen } = open('kettle')
    await isOpen()
    edit('Kettle, mended')
    let go = () => {}
    shelf.pause = new Promise((done) => (go = done))
    let saving = Promise.resolve()
    act(() => void (saving = result.current.saveNow()))
    shelf.isDeaf = true
    go()
    await act(() => saving)
    expect(result.current.save.kind).toBe('saved')
    shelf.isDeaf = false
    shelf.pause = undefined
    edit('Kettle, mended twice')
    await act(() => result.current.saveNow())
    expect(result.current.save.kind).toBe('saved')
    expect(shelf.texts.get('kettle')).toMatchObject({ title: 'Kettle, mended twice', version: 5 })
  })

  it('a fault of our own is not swallowed', async () => {
    const { result, edit, isOpen } = open('kettle')
    await isOpen()
    edit('x')
    shelf.refusal = new TypeError('no function') as unknown as ApiProblem
    await expect(act(() => result.current.saveNow())).rejects.toThrow('no function')
  })
})

describe('what nobody else sees yet saves itself', () => {
  it('a while after the last change, once', async () => {
    const { edit, isOpen, result } = open('idea')
    await isOpen()
    vi.useFakeTimers()
    edit('Idea one', false)
    await act(() => vi.advanceTimersByTimeAsync(2_000))
    edit('Idea two', false)
    await act(() => vi.advanceTimersByTimeAsync(2_000))
    expect(shelf.writes).toBe(0)
    await act(() => vi.advanceTimersByTimeAsync(600))
    expect([shelf.writes, shelf.texts.get('idea')?.title]).toEqual([1, 'Idea two'])
    expect(result.current.isChanged).toBe(false)
    await act(() => vi.advanceTimersByTimeAsync(60_000))
    expect(shelf.writes).toBe(1)
  })
  it.each([
    ['what readers see', 'kettle', true],
    ['what is about to be seen', 'idea', true],
    ['what readers see and is to be hidden', 'kettle', false],
  ])('but not %s', async (_, name, isPublic) => {
    const { edit, isOpen } = open(name)
    await isOpen()
    vi.useFakeTimers()
    edit('Changed', isPublic)
    await act(() => vi.advanceTimersByTimeAsync(60_000))
    expect(shelf.writes).toBe(0)
  })
  it('nor again and again what was refused', async () => {
    const { edit, isOpen } = open('idea')
    await isOpen()
    vi.useFakeTimers()
    shelf.refusal = problem(422, 'It is not valid')
    edit('Bad', false)
    await act(() => vi.advanceTimersByTimeAsync(60_000))
    expect(shelf.writes).toBe(1)
    edit('Better', false)
    await act(() => vi.advanceTimersByTimeAsync(3_000))
    expect([shelf.writes, shelf.texts.get('idea')?.title]).toEqual([2, 'Better'])
  })
})

describe('the browser', () => {
  const leaves = () => !window.dispatchEvent(new Event('beforeunload', { cancelable: true }))
  it('warns before it leaves what is not saved, and only then', async () => {
    const { edit, isOpen, result, unmount } = open('kettle')
    await isOpen()
    expect(leaves()).toBe(false)
    edit('Kettle, mended')
    expect(leaves()).toBe(true)
    edit('Kettle')
    expect([result.current.isChanged, leaves()]).toEqual([false, false])
    edit('Again')
    unmount()
    expect(leaves()).toBe(false)
  })
  it.each([{ ctrlKey: true }, { metaKey: true }])('saves by the keys for that: %j', async (modifier) => {
    const { edit, isOpen } = open('kettle')
    await isOpen()
    edit('By keys')
    const event = new KeyboardEvent('keydown', { key: 'S', cancelable: true, ...modifier })
    await act(async () => void window.dispatchEvent(event))
    expect(event.defaultPrevented).toBe(true)
    await waitFor(() => expect(shelf.texts.get('kettle')?.title).toBe('By keys'))
    await act(async () => void window.dispatchEvent(new KeyboardEvent('keydown', { key: 's' })))
    expect(shelf.writes).toBe(1)
  })
  it('that keeps nothing, or holds something else under the name, is no reason to fail', async () => {
    localStorage.setItem('esquina text kettle', '{broken')
    const { edit, isOpen, result, save } = open('kettle')
    await isOpen()
    expect(result.current).toMatchObject({
      parts: { title: 'Kettle' },
      isChanged: false,
      isBroughtBack: false,
    })
    const full = vi.spyOn(Storage.prototype, 'setItem').mockImplementation(() => {
      throw new DOMException('full', 'QuotaExceededError')
    })
    edit('Kettle, mended')
    await save()
    full.mockRestore()
    expect(shelf.texts.get('kettle')?.title).toBe('Kettle, mended')
  })
})
