// Changes that were shown are saved together and can be undone, and neither goes over what somebody saved since.
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { act, fireEvent, renderHook, screen, waitFor } from '@testing-library/react'
import { App } from 'antd'
import type { ReactNode } from 'react'
import { beforeEach, expect, it } from 'vitest'
import '../../testing/dom.ts'
import { put, shelf } from '../../testing/shelf.ts'
import { useApply } from './apply.ts'

const ROUTES = 'routes.yaml'
const QUERY = 'queries/journal.yaml'
beforeEach(() => put(ROUTES, 'home'))

function open() {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } })
  const wrapper = ({ children }: { children: ReactNode }) => (
    <QueryClientProvider client={client}>
      <App>{children}</App>
    </QueryClientProvider>
  )
  const { result } = renderHook(() => useApply(), { wrapper })
  return {
    save: (...words: Parameters<typeof result.current.save>) => act(() => result.current.save(...words)),
    mend: (...words: Parameters<typeof result.current.mend>) => act(() => result.current.mend(...words)),
  }
}
const texts = () => Object.fromEntries([...shelf].map(([path, { text }]) => [path, text]))
const undo = async () => fireEvent.click(await screen.findByRole('button', { name: 'Undo' }))
const isTold = (text: RegExp) => waitFor(() => expect(document.body.textContent).toMatch(text))

it('what is added is taken out again with an undo, and what was changed is as it was', async () => {
  const { save } = open()
  expect(await save({ [ROUTES]: 'home, journal', [QUERY]: 'from: posts' }, 'It is there')).toBe(true)
  expect(texts()).toEqual({ [ROUTES]: 'home, journal', [QUERY]: 'from: posts' })
  await undo()
  await isTold(/As it was/)
  expect(texts()).toEqual({ [ROUTES]: 'home' })
})

it('what was taken out is put back', async () => {
  put(QUERY, 'from: posts')
  const { mend } = open()
  const changes = [{ document: QUERY, text: null, before: 'from: posts' }]
  expect(await mend({ label: 'Delete it', changes, slug: null, after: 'It is gone' })).toBe(true)
  expect(texts()).toEqual({ [ROUTES]: 'home' })
  await undo()
  await isTold(/As it was/)
  expect(texts()).toEqual({ [ROUTES]: 'home', [QUERY]: 'from: posts' })
})

it('an undo does not go over what was saved since', async () => {
  const { save } = open()
  await save({ [ROUTES]: 'home, journal' }, 'It is there')
  put(ROUTES, 'home, journal, search')
  await undo()
  await isTold(/Something newer was saved since/)
  expect(texts()).toEqual({ [ROUTES]: 'home, journal, search' })
})

it('a mend that was made from another text is not applied', async () => {
  const { mend } = open()
  put(ROUTES, 'home, search')
  const changes = [{ document: ROUTES, text: 'home, mended', before: 'home' }]
  expect(await mend({ label: 'Mend it', changes, slug: null, after: 'It is mended' })).toBe(false)
  await isTold(/routes\.yaml was changed meanwhile/)
  expect(texts()).toEqual({ [ROUTES]: 'home, search' })
})

it('together or not at all: of a faulty one, nothing is saved', async () => {
  const { save } = open()
  expect(await save({ [ROUTES]: 'home, journal', [QUERY]: 'faulty' }, 'It is there')).toBe(false)
  await isTold(/queries\/journal\.yaml:1 is faulty/)
  expect(texts()).toEqual({ [ROUTES]: 'home' })
})
