// What is typed into a document is never lost, and never goes over what somebody else saved.
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { act, renderHook, waitFor } from '@testing-library/react'
import type { ReactNode } from 'react'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import '../../testing/dom.ts'
import { put, shelf, weather } from '../../testing/shelf.ts'
import { useDocument } from './use-document.ts'
import { useWritten } from './written.ts'

const PATH = 'queries/all-posts.yaml'
const KEY = `esquina document ${PATH}`

const set = (text: string) => put(PATH, text)
beforeEach(() => set('take: first 5'))
afterEach(() => useWritten.setState({ of: {} }))

function open(path = PATH) {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } })
  const wrapper = ({ children }: { children: ReactNode }) => (
    <QueryClientProvider client={client}>{children}</QueryClientProvider>
  )
  const onSaved = vi.fn()
  const { result, unmount } = renderHook(() => useDocument(path, onSaved), { wrapper })
  return {
    result,
    unmount,
    onSaved,
    isOpen: () => waitFor(() => expect(result.current.stored ?? result.current.error).toBeTruthy()),
    type: (text: string) => act(() => result.current.change(text)),
    save: () => act(() => result.current.save()),
    saveMine: () => act(() => result.current.saveMine()),
    discard: () => act(() => result.current.discard()),
    /** As after a mend, or when somebody else's save is heard of. */
    hear: () => act(() => client.invalidateQueries({ queryKey: ['document', path] })),
  }
}

describe('what is typed and not saved', () => {
  it('is there again when another document was open in between, and after a reload', async () => {
    const first = open()
    await first.isOpen()
    first.type('take: first 6')
    first.unmount()
    const second = open()
    await second.isOpen()
    expect(second.result.current).toMatchObject({ text: 'take: first 6', isChanged: true, isBehind: false })

    vi.resetModules()
    const reloaded = await import('./written.ts')
    expect(reloaded.useWritten.getState().of).toEqual({
      [PATH]: { text: 'take: first 6', base: 'take: first 5' },
    })
    await second.save()
    expect(shelf.get(PATH)).toEqual({ text: 'take: first 6', version: 2 })
    expect(second.result.current.isChanged).toBe(false)
    expect(second.onSaved).toHaveBeenCalledWith(
      expect.objectContaining({ path: PATH, previous: 'take: first 5' }),
    )
    expect(localStorage.getItem(KEY)).toBeNull()
  })

  it.each([['{broken'], ['null'], ['{"text":5}'], ['[]'], ['']])('a kept %s is no text', async (kept) => {
    localStorage.setItem(KEY, kept)
    localStorage.setItem('another key', 'of somebody else')
    vi.resetModules()
    expect((await import('./written.ts')).useWritten.getState().of).toEqual({})
  })

  it('typed back to how it was, it is nothing', async () => {
    const one = open()
    await one.isOpen()
    one.type('take: all')
    one.type('take: first 5')
    expect(one.result.current.isChanged).toBe(false)
    expect(localStorage.getItem(KEY)).toBeNull()
  })

  it('stays in a browser that has no room to keep it', async () => {
    const full = vi.spyOn(Storage.prototype, 'setItem').mockImplementation(() => {
      throw new DOMException('full', 'QuotaExceededError')
    })
    const one = open()
    await one.isOpen()
    one.type('take: all')
    expect(one.result.current).toMatchObject({ text: 'take: all', isChanged: true })
    full.mockRestore()
  })

  it('stays when the save is refused, or nobody answers', async () => {
    const one = open()
    await one.isOpen()
    one.type('faulty')
    await one.save()
    expect(one.result.current).toMatchObject({
      text: 'faulty',
      refused: { title: 'Not saved' },
      problems: [{ message: 'is faulty' }],
    })
    one.type('take: all')
    weather.isAway = true
    await one.save()
    expect(one.result.current).toMatchObject({
      text: 'take: all',
      isChanged: true,
      refused: { title: 'Esquina does not answer' },
    })
    weather.isAway = false
    await one.save()
    expect(shelf.get(PATH)?.text).toBe('take: all')
    expect(one.result.current.refused).toBeNull()
  })

  it('while a save is under way, is not saved yet', async () => {
    const one = open()
    await one.isOpen()
    one.type('take: all')
    let go: () => void = () => undefined
    weather.pause = new Promise((done) => (go = done))
    const saving = act(() => one.result.current.save())
    one.type('take: all # more')
    go()
    await saving
    expect(shelf.get(PATH)?.text).toBe('take: all')
    expect(one.result.current).toMatchObject({ text: 'take: all # more', isChanged: true, isBehind: false })
    await one.save()
    expect(shelf.get(PATH)).toEqual({ text: 'take: all # more', version: 3 })
  })
})

describe('what somebody else saves meanwhile', () => {
  it('is not gone over by a save: one of both is chosen', async () => {
    const one = open()
    await one.isOpen()
    one.type('mine')
    set('theirs')
    await one.save()
    expect(shelf.get(PATH)?.text).toBe('theirs')
    expect(one.result.current).toMatchObject({ text: 'mine', isBehind: true })
    await one.saveMine()
    expect(shelf.get(PATH)).toEqual({ text: 'mine', version: 3 })
    expect(one.result.current).toMatchObject({ isChanged: false, isBehind: false, refused: null })
  })

  it('is told as soon as it is heard of, and a save waits for the choice', async () => {
    const one = open()
    await one.isOpen()
    one.type('mine')
    set('theirs')
    await one.hear()
    await waitFor(() => expect(one.result.current.isBehind).toBe(true))
    await one.save()
    expect(shelf.get(PATH)?.text).toBe('theirs')
    one.discard()
    expect(one.result.current).toMatchObject({ text: 'theirs', isChanged: false, isBehind: false })
  })

  it('with the same text at last is nobody’s work to lose', async () => {
    const one = open()
    await one.isOpen()
    one.type('mine')
    set('theirs')
    set('take: first 5')
    await one.save()
    expect(shelf.get(PATH)).toEqual({ text: 'mine', version: 4 })
  })

  it('the same as is typed here: nothing is left to save', async () => {
    const one = open()
    await one.isOpen()
    one.type('the same')
    set('the same')
    await one.hear()
    await waitFor(() => expect(localStorage.getItem(KEY)).toBeNull())
    expect(one.result.current).toMatchObject({ text: 'the same', isChanged: false })
  })

  it('deleted: what was typed can be made again, or let go', async () => {
    const one = open()
    await one.isOpen()
    one.type('mine')
    shelf.delete(PATH)
    await one.save()
    await waitFor(() => expect(one.result.current.isGone).toBe(true))
    one.type('mine, still')
    await one.saveMine()
    expect(shelf.get(PATH)).toEqual({ text: 'mine, still', version: 1 })
    await waitFor(() => expect(one.result.current).toMatchObject({ isGone: false, isChanged: false }))
  })

  it('a document that was never there is an error, not an empty text', async () => {
    const one = open('queries/nope.yaml')
    await one.isOpen()
    expect(one.result.current).toMatchObject({
      error: { message: 'There is no document “queries/nope.yaml”' },
      isGone: false,
      stored: undefined,
    })
  })
})
