// Classes that stylesheets and pages have in common, and those that only one of them has.
import { describe, expect, it } from 'vitest'
import { misspeltClasses, misspeltUses } from './style-classes.ts'

const markup = (classes: string[], given: string[] = []) => ({
  classes: new Set(classes),
  ids: new Set<string>(),
  elements: new Set<string>(),
  isGiven: (one: string) => given.includes(one),
})
const misspelt = (css: string, classes: string[], given: string[] = []) =>
  misspeltClasses(new Map([['a.css', css]]), markup(classes, given)).map((one) => [one.actual, one.expected])
const uses = (css: string, classes: string[], js = '') =>
  misspeltUses(
    new Map([
      ['a.css', css],
      ['a.js', js],
    ]),
    markup(classes),
  ).map((one) => [one.name, one.meant])

describe('a class of a stylesheet', () => {
  it.each<[string, string[]]>([
    ['.crad { color: red } .card a { color: red }', ['.crad', '.card']],
    ['.paggers { color: red }', ['.paggers', '.pagers']],
    ['.secton { color: red }', ['.secton', '.section']],
    ['.fae { color: red }', ['.fae', '.face']],
    ['.sectin a { color: red } .section { color: red }', ['.sectin', '.section']],
    // Renamed in the templates only.
    ['.page-list { color: red }', ['.page-list', '.pages-listed']],
  ])('of %s is misspelt', (css, found) =>
    expect(misspelt(css, ['card', 'pagers', 'section', 'face', 'pages-listed'])).toEqual([found]),
  )

  it('may be one that no page has at the moment', () => {
    // Both are meant, as the styles of the other one show.
    expect(misspelt('.side { color: red } .size { color: red }', ['size'])).toEqual([])
    expect(misspelt('.tags { color: red } .tag { color: red }', ['tag'])).toEqual([])
    // A library has many classes that a blog does not use.
    const library = Array.from(
      { length: 20 },
      (_, index) => `.grid-${'abcdefghijklmnopqrst'[index] ?? ''} { color: red }`,
    )
    expect(misspelt(`.grow { color: red } ${library.join(' ')}`, ['row'])).toEqual([])
    // Numbered classes, short ones, and those that a script or a template gives.
    expect(misspelt('.depth-2 { color: red }', ['depth-1'])).toEqual([])
    expect(misspelt('.ba { color: red }', ['ca'])).toEqual([])
    expect(misspelt('.opened { color: red }', ['opener'], ['opened'])).toEqual([])
    expect(misspelt('.waiting { color: red }', ['card'])).toEqual([])
  })
})

describe('a class of a page', () => {
  it.each<[string, string, string]>([
    ['.said { color: red }', 'sid', 'said'],
    ['.card { color: red }', 'crad', 'card'],
    ['.pager { color: red }', 'pagger', 'pager'],
  ])('has no style in %s, because %s is misspelt', (css, name, meant) =>
    expect(uses(css, ['other', name])).toEqual([[name, meant]]),
  )

  it('may have no style', () => {
    expect(uses('.card, .pages { color: red }', ['cards', 'page', 'depth-1'])).toEqual([])
    expect(uses('.card { color: red }', ['crad'], "document.querySelector('.crad')")).toEqual([])
    expect(uses('.said, .sid { color: red }', ['sid'])).toEqual([])
  })
})
