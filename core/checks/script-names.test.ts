// Names in scripts that nothing declares.
import { expect, it } from 'vitest'
import { changedConstants, globalNames, misspeltMembers, unknownNames } from './script-names.ts'

const found = (script: string, others: readonly string[] = []) =>
  unknownNames(script, new Set(others)).map((one) => [one.name, one.line, one.isCall])

it.each<[string, [string, number, boolean][]]>([
  ["$('.a').hide()", [['$', 1, true]]],
  ['const a = 1\nconsole.log(a, b, b)', [['b', 2, false]]],
  ['function f() {\n  later()\n}', [['later', 2, true]]],
  ["import { a } from './a.js'\na(b)", [['b', 2, false]]],
  ["import a from './a.js'\nx = a", [['x', 2, false]]],
])('%j uses an unknown name', (script, names) => expect(found(script)).toEqual(names))

it.each([
  "document.querySelector('a')?.addEventListener('click', async ({ target: { id } }) => fetch(id))",
  'for (const [a, ...b] of new Map([[1, 2]])) structuredClone([a, b])',
  'function f(a = 1) { return arguments.length + a }\nf(undefined, NaN, globalThis)',
  'try { f() } catch (error) { throw new Error(error) }\nfunction f() {}',
  "if (typeof later === 'function') later()",
  'window.chart = () => 1\nchart()',
  'class A { #b = 1; get b() { return this.#b } }\nnew A()',
  'label: for (;;) { break label }',
  'x = 1\nconsole.log(x)',
  'not javascript at all',
])('%j uses none', (script) => expect(found(script)).toEqual([]))

it('scripts see the names at the top of other scripts, but not those of modules', () => {
  expect(globalNames('const a = 1\nfunction b() { const c = 2 }\nclass D {}')).toEqual(['a', 'b', 'D'])
  expect(globalNames("import { a } from './a.js'\nconst b = a")).toBeUndefined()
  expect(found('b(a)', ['a', 'b'])).toEqual([])
})

it('constants that get another value are found, but not their first value', () => {
  const found = (script: string) => changedConstants(script).map((one) => [one.name, one.line])
  expect(found('const a = 1\nfunction f() {\n  a++\n}')).toEqual([['a', 3]])
  expect(found("const [b] = 'x'\n;[b] = 'y'")).toEqual([['b', 2]])
  expect(
    found('for (const a of []) for (const { b } = {}; b; ) f(a)\nlet c = 1\nc = 2\nfunction f(d) { d = c }'),
  ).toEqual([])
})

it('misspelt members of the DOM are found, but not those of a script itself', () => {
  const found = (script: string) => misspeltMembers(script).map((one) => [one.name, one.meant, one.line])
  expect(found("a.b()\ndocument.querySelecter('a')?.textContnt")).toEqual([
    ['querySelecter', 'querySelector', 2],
    ['textContnt', 'textContent', 2],
  ])
  expect(found("form.ariaBusys === 'true' || document.actievElement")).toEqual([
    ['ariaBusys', 'ariaBusy', 1],
    ['actievElement', 'activeElement', 1],
  ])
  expect(
    found(
      "document.createElementNS('a', 'b').setAttributeNS('c', 'd', 'e')\nconst own = { classLists: [] }\nown.classLists.forEach(f)\na.hasAttribute('b') || a.hasAttributes()\na.ariaLevel = a.ariaLabel\na.previousElementSibling?.className",
    ),
  ).toEqual([])
})
