// The query builder: choices change the YAML in place, typed text stays as typed, comments stay.
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

describe('the limit', () => {
  it('pages start with a size, and their settings are removed with them', () => {
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
  it('cursor pages have no setting beyond the last page, and no total by default', () => {
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
  it('a parameter can be typed letter by letter', () => {
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
  it('“next route” is only offered for one row', () => {
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

describe('the value of a condition', () => {
  it('is a list for “in”, and every letter can be deleted again', () => {
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
  it('is a number, a boolean or a parameter, by the type of the field', () => {
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
  it('is absent for “set” and “unset”', () => {
    open('from: posts', 'where:', '  - { field: publishedAt, is: less, to: ":q", when: given }', 'take: all')
    choose('Operator for publishedAt', 'set')
    expect(written()[2]).toBe('  - { field: publishedAt, is: set }')
    expect(screen.queryByLabelText('Value for publishedAt')).toBeNull()
  })
  it('another field keeps the operator if it has it, and otherwise gets its first one', () => {
    open('from: posts', 'where:', '  - { field: title, is: contains, to: oth }', 'take: all')
    choose('Field', 'excerpt')
    expect(written()[2]).toBe('  - { field: excerpt, is: contains, to: oth }')
    choose('Field', 'publishedYear')
    expect(text.split('\n')[2]).toMatch(/field: publishedYear, is: (?!contains)/)
  })
})

describe('groups of conditions', () => {
  const rows = (name: string) => screen.getByRole('group', { name: `Condition ${name}` })
  it('are negated and back, and removed with their “not”', () => {
    open('from: posts', 'where: [published]', 'take: all')
    press('Put “not” before condition 1')
    expect(written().slice(1, 3)).toEqual(['where:', '  - { not: published }'])
    press('Remove “not” from condition 1')
    expect(written().slice(1, 3)).toEqual(['where:', '  - published'])
    press('Put “not” before condition 1')
    press('Remove condition 1')
    expect(written()).toEqual(['from: posts', 'take: all'])
  })
  it('are nested at most three deep', () => {
    open('from: posts', 'where:', '  - { any: [{ all: [{ any: [published] }] }] }', 'take: all')
    expect(
      within(rows('1.1.1')).queryByRole('button', { name: /Put “not” before condition 1\.1\.1\.1/ }),
    ).toBeNull()
    press('Add a condition to 1.1.1')
    const offered = screen.getAllByRole('menuitem').map((one) => one.textContent)
    expect(offered.at(-1)).toBe('Compare a field…')
    expect(offered.join()).not.toContain('Any of several')
  })
  it('keep conditions that are not understood, which can be removed', () => {
    open('from: posts', 'where:', '  - { some: [published] }', '  - published', 'take: all')
    expect(screen.getByText('Cannot be shown here. See the YAML.')).toBeTruthy()
    press('Remove condition 1')
    expect(text).toContain('published')
    expect(text).not.toContain('some')
  })
})

it('another source removes the parts that it does not have, and says so', async () => {
  open('from: posts', 'with: [category]', 'where: [published]', 'order: [title, -publishedAt]', 'take: all')
  choose('Source', 'tags')
  expect(written()).toEqual(['from: tags', 'take: all'])
  expect(
    await screen.findByText(/^Removed, because tags do not have it: with category, where published/),
  ).toBeTruthy()
})

describe('order and counts', () => {
  it('sort keys are added and reversed', () => {
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
  it('counting has no related rows, and is ordered by the counted fields', () => {
    open('from: posts', 'with: [category]', 'take: all')
    choose('Fields to count by', 'author.name')
    expect(written()).toEqual(['from: posts', 'count-by: [author.name]', 'take: all'])
    press('Order by…')
    expect(written()[2]).toBe('order: [count]')
  })
})

it('an invalid text shows no parts, and says what to do', () => {
  open('from: [posts')
  expect(screen.getByText(/The text is not a valid query/)).toBeTruthy()
  open('just words')
  expect(screen.getByText(/The text is not a valid query/)).toBeTruthy()
})
