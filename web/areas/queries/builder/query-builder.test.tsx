// The parts of a query as controls: what is chosen is written, what is typed stays as typed, comments stay where they are.
import { fireEvent, render, screen, within } from '@testing-library/react'
import { App } from 'antd'
import { useEffect, useState } from 'react'
import { describe, expect, it } from 'vitest'
import { demo, problemsOf } from '../../../../core/testing/demo.ts'
import '../../../testing/dom.ts'
import { words } from '../words.ts'
import { QueryBuilder } from './query-builder.tsx'

let text = ''
function Held({ start, tell }: { start: string; tell(text: string): void }) {
  const [held, setHeld] = useState(start)
  useEffect(() => tell(held), [held, tell])
  return (
    <App>
      <QueryBuilder text={held} change={setHeld} parameters={['category', 'q']} />
    </App>
  )
}
const hear = (told: string) => {
  text = told
}
const open = (...lines: string[]) => {
  document.body.innerHTML = ''
  render(<Held start={`${lines.join('\n')}\n`} tell={hear} />)
}
/** The text has to be a query that may be saved, whatever was pressed. */
const written = () => {
  expect(problemsOf(new Map([...demo, ['queries/tried.yaml', text]]))).toEqual([])
  return text.trimEnd().split('\n')
}

const field = (name: string) => screen.getByLabelText(name)
const type = (name: string, value: string) => fireEvent.change(field(name), { target: { value } })
const choose = (name: string, option: string | RegExp) => {
  fireEvent.mouseDown(field(name))
  const found = [...document.querySelectorAll('.ant-select-item-option')].filter((one) => {
    const own = one.querySelector('.ant-select-item-option-content')?.textContent ?? ''
    return typeof option === 'string' ? own === option || own.startsWith(`${option} `) : option.test(own)
  })
  const last = found.at(-1)
  if (!last) throw new Error(`${name} does not offer ${String(option)}`)
  fireEvent.click(last)
}
const press = (name: string) => fireEvent.click(screen.getByRole('button', { name }))

describe('how rows are taken', () => {
  it('page by page begins with a size, and what belongs to pages goes with them', () => {
    open('# the journal', 'from: posts', 'order: [-publishedAt]', 'take: all')
    choose('Number of rows', words.builder.pages)
    expect(written()).toEqual([
      '# the journal',
      'from: posts',
      'order: [-publishedAt]',
      'take: pages',
      'pages: { size: 6 }',
    ])
    type('Rows per page', '12')
    choose('Beyond the last page', 'beyond the last page: the last page')
    expect(written().at(-1)).toBe('pages: { size: 12, past-the-end: last }')
    choose('Number of rows', 'the first')
    expect(written()).toEqual(['# the journal', 'from: posts', 'order: [-publishedAt]', 'take: first 5'])
    type('Rows', '7')
    expect(written().at(-1)).toBe('take: first 7')
  })
  it('by cursor there is no page past the end, and no total unless it is asked for', () => {
    open('from: posts', 'take: pages', 'pages: { size: 6, past-the-end: empty }')
    choose('Kind of pages', 'by cursor')
    expect(written().at(-1)).toBe('pages: { size: 6, by: cursor }')
    expect(screen.queryByLabelText('Beyond the last page')).toBeNull()
    choose('Total', 'estimated total')
    expect(written().at(-1)).toBe('pages: { size: 6, by: cursor, count: estimated }')
    choose('Kind of pages', 'by page number')
    choose('Total', 'exact total')
    expect(written().at(-1)).toBe('pages: { size: 6 }')
  })
  it('a parameter is typed letter by letter, from nothing', () => {
    open('from: posts', 'take: pages', 'pages: { size: 6 }')
    const name = 'Parameter of the query string'
    expect((field(name) as HTMLInputElement).value).toBe('page')
    fireEvent.focus(field(name))
    for (const value of ['pag', 'pa', 'p', '', 'f', 'fr', 'from']) {
      type(name, value)
      expect((field(name) as HTMLInputElement).value).toBe(value)
    }
    fireEvent.blur(field(name))
    expect(written().at(-1)).toBe('pages: { size: 6, parameter: from }')
    type(name, '')
    fireEvent.blur(field(name))
    expect((field(name) as HTMLInputElement).value).toBe('page')
    expect(written().at(-1)).toBe('pages: { size: 6 }')
  })
  it('one row may leave the address to the next route; several may not', () => {
    open('from: posts', 'where:', '  - { field: slug, is: equal, to: a-slug }', 'take: one')
    choose('Result without rows', 'next-route')
    expect(written().at(-1)).toBe('empty: next-route')
    choose('Number of rows', 'all rows')
    expect(written()).toEqual([
      'from: posts',
      'where:',
      '  - { field: slug, is: equal, to: a-slug }',
      'take: all',
    ])
  })
})

describe('what a field is compared with', () => {
  it('is a list where it is one of several, and every letter of it can be taken back', () => {
    open('from: posts', 'where:', '  - { field: title, is: equal, to: Moth } # the one', 'take: all')
    choose('Operator for title', 'in')
    expect(written()[2]).toBe('  - { field: title, is: in, to: [Moth] } # the one')
    const name = 'Value for title'
    for (const value of ['Moth,', 'Moth, ', 'Moth, B', 'Moth, Bell']) {
      type(name, value)
      expect((field(name) as HTMLInputElement).value).toBe(value)
    }
    expect(written()[2]).toBe('  - { field: title, is: in, to: [Moth, Bell] } # the one')
    for (const value of ['Moth, ', 'Moth,', 'Moth']) type(name, value)
    expect((field(name) as HTMLInputElement).value).toBe('Moth')
    expect(written()[2]).toBe('  - { field: title, is: in, to: [Moth] } # the one')
  })
  it('is a number for numbers, a truth for truths, and a parameter for either', () => {
    open('from: posts', 'where:', '  - { field: wordCount, is: more, to: 5 }', 'take: all')
    type('Value for wordCount', '250')
    expect(written()[2]).toBe('  - { field: wordCount, is: more, to: 250 }')
    open('from: posts', 'where:', '  - { field: slug, is: equal, to: x }', 'take: all')
    type('Value for slug', '250')
    expect(text.split('\n')[2]).toBe('  - { field: slug, is: equal, to: "250" }')
    type('Value for slug', ':q')
    choose('If :q is absent', 'when given')
    expect(text.split('\n')[2]).toBe('  - { field: slug, is: equal, to: :q, when: given }')
  })
  it('is nothing where it is only asked whether there is one', () => {
    open('from: posts', 'where:', '  - { field: publishedAt, is: less, to: ":q", when: given }', 'take: all')
    choose('Operator for publishedAt', 'set')
    expect(written()[2]).toBe('  - { field: publishedAt, is: set }')
    expect(screen.queryByLabelText('Value for publishedAt')).toBeNull()
  })
  it('another field keeps the comparison where it knows it, and takes its first where not', () => {
    open('from: posts', 'where:', '  - { field: title, is: contains, to: oth }', 'take: all')
    choose('Field', 'excerpt')
    expect(written()[2]).toBe('  - { field: excerpt, is: contains, to: oth }')
    choose('Field', 'publishedYear')
    expect(text.split('\n')[2]).toMatch(/field: publishedYear, is: (?!contains)/)
  })
})

describe('conditions in groups', () => {
  const rows = (name: string) => screen.getByRole('group', { name: `Condition ${name}` })
  it('are turned into their opposite and back, and taken out with their “not”', () => {
    open('from: posts', 'where: [published]', 'take: all')
    press('Negate condition 1')
    expect(written().slice(1, 3)).toEqual(['where:', '  - { not: published }'])
    press('Remove “not” from condition 1')
    expect(written().slice(1, 3)).toEqual(['where:', '  - published'])
    press('Negate condition 1')
    press('Remove condition 1')
    expect(written()).toEqual(['from: posts', 'take: all'])
  })
  it('lie three deep at most: deeper, no more are offered', () => {
    open('from: posts', 'where:', '  - { any: [{ all: [{ any: [published] }] }] }', 'take: all')
    expect(within(rows('1.1.1')).queryByRole('button', { name: /Negate condition 1\.1\.1\.1/ })).toBeNull()
    press('Add a condition to 1.1.1')
    const offered = screen.getAllByRole('menuitem').map((one) => one.textContent)
    expect(offered.at(-1)).toBe('Compare a field…')
    expect(offered.join()).not.toContain('Any of several')
  })
  it('what is not understood is left as it is, and can be taken out', () => {
    open('from: posts', 'where:', '  - { some: [published] }', '  - published', 'take: all')
    expect(screen.getByText('Cannot be shown here. See the YAML.')).toBeTruthy()
    press('Remove condition 1')
    expect(text).toContain('published')
    expect(text).not.toContain('some')
  })
})

it('another source removes the parts that it does not know, and says so', async () => {
  open('from: posts', 'with: [category]', 'where: [published]', 'order: [title, -publishedAt]', 'take: all')
  choose('Source', 'tags')
  expect(written()).toEqual(['from: tags', 'take: all'])
  expect(
    await screen.findByText(/^Removed, because tags do not have it: with category, where published/),
  ).toBeTruthy()
})

describe('order and counts', () => {
  it('one after the other, each either way', () => {
    open('from: posts', 'take: all')
    press('Order by…')
    const [first = ''] = /\[(.*)\]/.exec(text)?.slice(1) ?? []
    press(`${first}: ascending`)
    expect(written()[1]).toBe(`order: [-${first}]`)
    press('Then by…')
    expect(written()[1]).toMatch(/^order: \[-\w+, \w+\]$/)
    press('Remove order 1')
    press('Remove order 1')
    expect(written()).toEqual(['from: posts', 'take: all'])
  })
  it('what is counted brings no rows along, and is ordered by what it is counted by', () => {
    open('from: posts', 'with: [category]', 'take: all')
    choose('Fields to count by', 'author.name')
    expect(written()).toEqual(['from: posts', 'count-by: [author.name]', 'take: all'])
    press('Order by…')
    expect(written()[2]).toBe('order: [count]')
  })
})

it('a text that is no query shows no parts, and says what to do', () => {
  open('from: [posts')
  expect(screen.getByText(/The text is not a valid query/)).toBeTruthy()
  open('just words')
  expect(screen.getByText(/The text is not a valid query/)).toBeTruthy()
})
