// Typed text is never lost, and never overwrites what someone else has saved.
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { act, fireEvent, renderHook, screen, waitFor } from '@testing-library/react'
import { App } from 'antd'
import type { ReactNode } from 'react'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import '../../testing/dom.ts'
import { put, server, stored } from '../../testing/document-server.ts'
import { invalidateReads } from '../../api/queries.ts'
import { useDocument } from './use-document.ts'
import { useUnsavedTexts } from './unsaved-texts.ts'

const PATH = 'queries/all-posts.yaml'
const KEY = `esquina document ${PATH}`

const set = (text: string) => put(PATH, text)
beforeEach(() => set('take: first 5'))
afterEach(() => useUnsavedTexts.setState({ of: {} }))

function open(path = PATH) {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } })
  const wrapper = ({ children }: { children: ReactNode }) => (
    <QueryClientProvider client={client}>
      <App>{children}</App>
    </QueryClientProvider>
  )
  const onSaved = vi.fn()
  const { result, unmount } = renderHook(() => useDocument(path, { onSaved }), { wrapper })
  return {
    result,
    unmount,
    onSaved,
    isOpen: () => waitFor(() => expect(result.current.stored ?? result.current.error).toBeTruthy()),
    type: (text: string) => act(() => result.current.change(text)),
    save: () => act(() => result.current.save()),
    overwrite: () => act(() => result.current.overwrite()),
    discard: () => act(() => result.current.discard()),
    /** As after any write of the workbench. */
    readAgain: () => act(() => invalidateReads(client)),
  }
}

describe('unsaved text', () => {
  it('is restored after another document was open, and after a reload', async () => {
    const first = open()
    await first.isOpen()
    first.type('take: first 6')
    first.unmount()
    const second = open()
    await second.isOpen()
    expect(second.result.current).toMatchObject({ text: 'take: first 6', isChanged: true, isOutdated: false })

    vi.resetModules()
    const reloaded = await import('./unsaved-texts.ts')
    expect(reloaded.useUnsavedTexts.getState().of).toEqual({
      [PATH]: { text: 'take: first 6', base: 'take: first 5' },
    })
    await second.save()
    expect(stored.get(PATH)).toEqual({ text: 'take: first 6', version: 2 })
    expect(second.result.current.isChanged).toBe(false)
    expect(second.onSaved).toHaveBeenCalledWith(
      expect.objectContaining({ path: PATH, previous: 'take: first 5', isUndo: false }),
    )
    expect(localStorage.getItem(KEY)).toBeNull()
  })

  it.each([['{broken'], ['null'], ['{"text":5}'], ['[]'], ['']])(
    'ignores the invalid stored text %s',
    async (kept) => {
      localStorage.setItem(KEY, kept)
      localStorage.setItem('another key', 'of someone else')
      vi.resetModules()
      expect((await import('./unsaved-texts.ts')).useUnsavedTexts.getState().of).toEqual({})
    },
  )

  it('is forgotten when it equals the stored text again', async () => {
    const one = open()
    await one.isOpen()
    one.type('take: all')
    one.type('take: first 5')
    expect(one.result.current.isChanged).toBe(false)
    expect(localStorage.getItem(KEY)).toBeNull()
  })

  it('stays if the browser’s storage is full', async () => {
    const full = vi.spyOn(Storage.prototype, 'setItem').mockImplementation(() => {
      throw new DOMException('full', 'QuotaExceededError')
    })
    const one = open()
    await one.isOpen()
    one.type('take: all')
    expect(one.result.current).toMatchObject({ text: 'take: all', isChanged: true })
    full.mockRestore()
  })

  it('stays if the save is refused, or there is no response', async () => {
    const one = open()
    await one.isOpen()
    one.type('faulty')
    await one.save()
    expect(one.result.current).toMatchObject({
      text: 'faulty',
      refused: { code: 'document-invalid' },
      problems: [{ code: 'faulty' }],
    })
    one.type('take: all')
    server.isAway = true
    await one.save()
    expect(one.result.current).toMatchObject({
      text: 'take: all',
      isChanged: true,
      refused: { code: 'workbench-unavailable' },
    })
    server.isAway = false
    await one.save()
    expect(stored.get(PATH)?.text).toBe('take: all')
    expect(one.result.current.refused).toBeNull()
  })

  it('that is typed during a save is not saved yet', async () => {
    const one = open()
    await one.isOpen()
    one.type('take: all')
    let go: () => void = () => undefined
    server.pause = new Promise((done) => (go = done))
    const saving = act(() => one.result.current.save())
    one.type('take: all # more')
    go()
    await saving
    expect(stored.get(PATH)?.text).toBe('take: all')
    expect(one.result.current).toMatchObject({ text: 'take: all # more', isChanged: true, isOutdated: false })
    await one.save()
    expect(stored.get(PATH)).toEqual({ text: 'take: all # more', version: 3 })
  })
})

describe('a document that someone else has saved', () => {
  it('is not overwritten by a save, only by a choice', async () => {
    const one = open()
    await one.isOpen()
    one.type('mine')
    set('theirs')
    await one.save()
    expect(stored.get(PATH)?.text).toBe('theirs')
    expect(one.result.current).toMatchObject({ text: 'mine', isOutdated: true })
    await one.overwrite()
    expect(stored.get(PATH)).toEqual({ text: 'mine', version: 3 })
    expect(one.result.current).toMatchObject({ isChanged: false, isOutdated: false, refused: null })
  })

  it('is noticed when it is read again, and saves wait for the choice', async () => {
    const one = open()
    await one.isOpen()
    one.type('mine')
    set('theirs')
    await one.readAgain()
    await waitFor(() => expect(one.result.current.isOutdated).toBe(true))
    await one.save()
    expect(stored.get(PATH)?.text).toBe('theirs')
    one.discard()
    expect(one.result.current).toMatchObject({ text: 'theirs', isChanged: false, isOutdated: false })
  })

  it('with the same text as before is overwritten, because nothing is lost', async () => {
    const one = open()
    await one.isOpen()
    one.type('mine')
    set('theirs')
    set('take: first 5')
    await one.save()
    expect(stored.get(PATH)).toEqual({ text: 'mine', version: 4 })
  })

  it('with the typed text leaves nothing to save', async () => {
    const one = open()
    await one.isOpen()
    one.type('the same')
    set('the same')
    await one.readAgain()
    await waitFor(() => expect(localStorage.getItem(KEY)).toBeNull())
    expect(one.result.current).toMatchObject({ text: 'the same', isChanged: false })
  })

  it('can be created again if it was deleted', async () => {
    const one = open()
    await one.isOpen()
    one.type('mine')
    stored.delete(PATH)
    await one.save()
    await waitFor(() => expect(one.result.current.isDeleted).toBe(true))
    one.type('mine, still')
    await one.overwrite()
    expect(stored.get(PATH)).toEqual({ text: 'mine, still', version: 1 })
    await waitFor(() => expect(one.result.current).toMatchObject({ isDeleted: false, isChanged: false }))
  })

  it('a document that does not exist is an error, not an empty text', async () => {
    const one = open('queries/nope.yaml')
    await one.isOpen()
    expect(one.result.current).toMatchObject({
      error: { details: { code: 'document-unknown' } },
      isDeleted: false,
      stored: undefined,
    })
  })
})

describe('a save', () => {
  it('is reported, and can be undone', async () => {
    const one = open()
    await one.isOpen()
    one.type('take: all')
    await one.save()
    expect(await screen.findByText(`${PATH} was saved.`)).toBeTruthy()
    await act(async () => void fireEvent.click(await screen.findByRole('button', { name: 'Undo' })))
    await waitFor(() => expect(stored.get(PATH)).toEqual({ text: 'take: first 5', version: 3 }))
    await waitFor(() => expect(one.result.current.text).toBe('take: first 5'))
    expect(one.onSaved).toHaveBeenLastCalledWith(
      expect.objectContaining({ previous: 'take: all', isUndo: true }),
    )
  })

  it('is not undone if someone has saved a newer version', async () => {
    const one = open()
    await one.isOpen()
    one.type('take: all')
    await one.save()
    set('theirs')
    await act(async () => void fireEvent.click(await screen.findByRole('button', { name: 'Undo' })))
    expect(await screen.findByText(/has been changed/)).toBeTruthy()
    expect(stored.get(PATH)?.text).toBe('theirs')
  })
})
