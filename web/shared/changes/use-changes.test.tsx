// Changes are applied together or not at all, can be undone, and never overwrite what someone else has saved.
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { act, fireEvent, renderHook, screen, waitFor } from '@testing-library/react'
import { App } from 'antd'
import type { ReactNode } from 'react'
import { beforeEach, expect, it } from 'vitest'
import type { ChangeStep } from '../../../core/shapes/changes.ts'
import { put, stored } from '../../testing/document-server.ts'
import '../../testing/dom.ts'
import { useChanges } from './use-changes.ts'

const ROUTES = 'routes.yaml'
const QUERY = 'queries/journal.yaml'
beforeEach(() => put(ROUTES, 'home'))

function mounted() {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } })
  const wrapper = ({ children }: { children: ReactNode }) => (
    <QueryClientProvider client={client}>
      <App>{children}</App>
    </QueryClientProvider>
  )
  const { result } = renderHook(() => useChanges(), { wrapper })
  return result
}
function open() {
  const result = mounted()
  return {
    apply: (...input: Parameters<typeof result.current.apply>) => act(() => result.current.apply(...input)),
    edit: (...input: Parameters<typeof result.current.edit>) => act(() => result.current.edit(...input)),
  }
}
const save = (document: string, text: string, basis: string): ChangeStep => ({
  do: 'save-document',
  document,
  text,
  basis,
})
const texts = () => Object.fromEntries([...stored].map(([path, { text }]) => [path, text]))
const undo = async () => fireEvent.click(await screen.findByRole('button', { name: 'Undo' }))
const isShown = (text: RegExp) => waitFor(() => expect(document.body.textContent).toMatch(text))

it('created and changed documents are undone together', async () => {
  const { apply } = open()
  const steps = [save(ROUTES, 'home, journal', 'home'), save(QUERY, 'from: posts', '')]
  expect(await apply(steps, 'The route was created.')).toBe(true)
  await isShown(/The route was created\./)
  expect(texts()).toEqual({ [ROUTES]: 'home, journal', [QUERY]: 'from: posts' })
  await undo()
  await isShown(/The change was undone\./)
  expect(texts()).toEqual({ [ROUTES]: 'home' })
})

it('a deleted document is restored', async () => {
  put(QUERY, 'from: posts')
  const { apply } = open()
  const step: ChangeStep = { do: 'delete-document', document: QUERY, basis: 'from: posts' }
  expect(await apply([step], 'The query was deleted.')).toBe(true)
  expect(texts()).toEqual({ [ROUTES]: 'home' })
  await undo()
  await isShown(/The change was undone\./)
  expect(texts()).toEqual({ [ROUTES]: 'home', [QUERY]: 'from: posts' })
})

it('an undo does not overwrite what was saved since', async () => {
  const { apply } = open()
  await apply([save(ROUTES, 'home, journal', 'home')], 'Saved.')
  put(ROUTES, 'home, journal, search')
  await undo()
  await isShown(/Someone has saved a newer version since/)
  expect(texts()).toEqual({ [ROUTES]: 'home, journal, search' })
})

it('a change that is based on another text is refused', async () => {
  const { apply } = open()
  put(ROUTES, 'home, search')
  expect(await apply([save(ROUTES, 'home, fixed', 'home')], 'Fixed.')).toBe(false)
  await isShown(/routes\.yaml has been changed/)
  expect(texts()).toEqual({ [ROUTES]: 'home, search' })
})

it('none of several changes is applied if one is faulty', async () => {
  const { apply } = open()
  const steps = [save(ROUTES, 'home, journal', 'home'), save(QUERY, 'faulty', '')]
  expect(await apply(steps, 'Created.')).toBe(false)
  await isShown(/queries\/journal\.yaml:1 The text is faulty\./)
  expect(texts()).toEqual({ [ROUTES]: 'home' })
})

it('an edit changes the stored text, and reports a text that it cannot change', async () => {
  const { edit } = open()
  expect(await edit(ROUTES, (text) => `${text}, journal`, 'Added.')).toBe(true)
  expect(texts()).toEqual({ [ROUTES]: 'home, journal' })
  expect(await edit(ROUTES, (text) => text, 'Unchanged.')).toBe(false)
  expect(await edit(ROUTES, () => undefined, 'Impossible.')).toBe(false)
  await isShown(/routes\.yaml cannot be changed by a form\./)
  expect(document.body.textContent).not.toMatch(/Unchanged|Impossible/)
})

it.each([
  ['Cancel', false, 'home'],
  ['Save anyway', true, 'failing'],
])('what would make an address fail is shown first: “%s”', async (name, isApplied, text) => {
  const result = mounted()
  const applied = result.current.apply([save(ROUTES, 'failing', 'home')], 'The route was saved.')
  await isShown(/The change was not saved.*routes\.yaml:3 \/posts would answer 500\./)
  fireEvent.click(await screen.findByRole('button', { name }))
  expect(await act(() => applied)).toBe(isApplied)
  expect(texts()).toEqual({ [ROUTES]: text })
})
