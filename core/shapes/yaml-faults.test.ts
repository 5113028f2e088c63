// Faulty YAML: one cause is one problem, at its line, and a long document is not read longer than a short one.
import { expect, it } from 'vitest'
import { Routes, Settings } from './schemas.ts'
import { readYaml } from './yaml.ts'

const problems = (text: string, schema: typeof Routes | typeof Settings = Routes) => {
  const read = readYaml('routes.yaml', text, schema)
  return read.ok ? [] : read.problems
}

it('a tab is one problem with its line', () => {
  const lines = Array.from({ length: 300 }, (_, index) => [`- name: r${index}`, `  path: /x/${index}`]).flat()
  lines[101] = '\tpath: /x/50'
  expect(problems(lines.join('\n'))).toEqual([
    expect.objectContaining({ code: 'yaml-tab', line: 102, column: 1 }),
  ])
})

it.each([
  ['-\tname: a\n', 1, 2],
  ['- name: a\n- \tname: b\n', 2, 3],
  ['- name: a\n  data:\n  \t a: b\n', 3, 3],
  ['-\tname: a\n\tpath: /a\n'.repeat(500), 1, 2],
])('%j is one problem with the place of its first tab', (text, line, column) => {
  const read = readYaml('routes.yaml', text, Routes)
  expect(read).toMatchObject({ ok: false, problems: [{ code: 'yaml-tab', line, column }] })
  expect(read.ok ? [] : read.problems).toHaveLength(1)
})

it.each([
  ['- name: a\n  path: /a\n  data: { posts: x\n  template: pages/a\n', '{', 3, 9],
  ['- name: [a\n  path: /a\n', '[', 1, 9],
  ['- name: "a\n- name: b\n', '"', 1, 9],
])('what is not closed in %j is named with its line', (text, opener, line, column) => {
  const [first] = problems(text)
  expect(first).toMatchObject({ code: 'yaml-not-closed', line, column })
  expect(first?.message).toContain(`“${opener}”`)
})

it('lists the first problems, and says how many follow', () => {
  const found = problems('- name: a: b: c\n  path: {\n'.repeat(4_000))
  expect(found).toHaveLength(21)
  expect(found.at(-1)).toMatchObject({
    code: 'yaml-more',
    message: expect.stringMatching(/^\d+,\d+ more problems/) as string,
  })
})

it('finds repeated keys, in any map', () => {
  expect(
    problems('title: a\ntagline: b\ntitle: c\nslugs:\n  max-length: 3\n  max-length: 4\n', Settings),
  ).toEqual([
    expect.objectContaining({ code: 'yaml-key-repeated', line: 3 }),
    expect.objectContaining({ code: 'yaml-key-repeated', line: 6 }),
  ])
})
