// The focus after the focused element is gone.
import { waitFor } from '@testing-library/react'
import { afterEach, beforeEach, expect, it } from 'vitest'
import '../../testing/dom.ts'
import { keepFocus } from './keep-focus.ts'

let stop: () => void
beforeEach(() => {
  document.body.innerHTML = `
    <div id="root">
      <header><button id="top">Top</button></header>
      <section>
        <ul>
          <li><button id="a">A</button><button id="remove-a">Remove</button></li>
          <li><button id="b">B</button><button id="remove-b">Remove</button></li>
        </ul>
        <input id="field" /><button id="save">Save</button>
      </section>
    </div>
    <div id="menu"><button id="item">Item</button></div>`
  stop = keepFocus(document)
})
afterEach(() => stop())

const element = (id: string) => document.getElementById(id) as HTMLButtonElement
const focused = () => document.activeElement?.id

it('is on the element that follows a removed one', async () => {
  element('remove-a').focus()
  element('a').parentElement?.remove()
  await waitFor(() => expect(focused()).toBe('remove-b'))
})

it('is on the last one left when the last was removed', async () => {
  element('remove-b').focus()
  element('b').parentElement?.remove()
  await waitFor(() => expect(focused()).toBe('remove-a'))
})

it('stays in the pane when its list is removed', async () => {
  element('b').focus()
  document.querySelector('ul')?.remove()
  await waitFor(() => expect(focused()).toMatch(/^(field|save)$/))
})

it('is back where a menu was opened when the menu is gone', async () => {
  element('save').focus()
  element('item').focus()
  element('menu').remove()
  await waitFor(() => expect(focused()).toBe('save'))
})

it('is where a menu was opened also if that was replaced meanwhile', async () => {
  element('a').focus()
  element('item').focus()
  element('a').remove()
  element('menu').remove()
  await waitFor(() => expect(focused()).toBe('remove-a'))
})

it('leaves the focus alone after someone has left the element on purpose', async () => {
  element('save').focus()
  element('save').blur()
  await new Promise((done) => setTimeout(done, 5))
  element('save').remove()
  await new Promise((done) => setTimeout(done, 5))
  expect(document.activeElement).toBe(document.body)
})
