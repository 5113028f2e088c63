// The key of what is open: a rename keeps it, everything else changes it.
import { act, renderHook } from '@testing-library/react'
import { expect, it } from 'vitest'
import '../../../testing/dom.ts'
import { isNew, newName } from './new-name.ts'
import { useOpenKey } from './use-open-key.ts'

function open(first: string | null) {
  const { result, rerender } = renderHook(({ name }) => useOpenKey(name), { initialProps: { name: first } })
  return {
    key: () => result.current.key,
    go: (name: string | null) => rerender({ name }),
    rename: (to: string) => act(() => result.current.renamed(to)),
  }
}

it('stays when a new item gets its name, before and after the address follows', () => {
  const item = open('(new)')
  const { key } = item
  const first = key()
  item.rename('a-post')
  expect(key()).toBe(first)
  item.go('a-post')
  expect(key()).toBe(first)
})

it('changes when the next new item is opened after one was saved', () => {
  const item = open('(new)')
  item.rename('a-post')
  item.go('a-post')
  const first = item.key()
  item.go('(new)2')
  expect(item.key()).not.toBe(first)
  const second = item.key()
  item.go('a-post')
  expect(item.key()).not.toBe(second)
})

it('changes when another item is opened, or none', () => {
  const item = open('a')
  let last = item.key()
  for (const name of ['b', null, 'a']) {
    item.go(name)
    expect(item.key()).not.toBe(last)
    last = item.key()
  }
})

it('changes when something else is opened after a rename', () => {
  const item = open('a')
  item.rename('b')
  item.go('b')
  const renamed = item.key()
  item.go('c')
  expect(item.key()).not.toBe(renamed)
})

it('names every new item differently', () => {
  const names = [newName(), newName(), newName()]
  expect(new Set(names).size).toBe(3)
  expect(names.every(isNew)).toBe(true)
  expect([isNew('a-post'), isNew(null)]).toEqual([false, false])
})
