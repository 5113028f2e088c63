import { describe, expect, it } from 'vitest'
import { readScript } from './script-selectors.ts'

const names = (script: string) => readScript(script)?.selectors.map(({ name, line }) => `${line} ${name}`)

describe('what a script looks for', () => {
  it.each([
    ["document.querySelector('.a')", ['1 .a']],
    ["\n$.querySelectorAll('ul.list > li#first, .x-y')", ['2 .list', '2 #first', '2 .x-y']],
    ["el.closest('.card')?.matches('#one')", ['1 .card', '1 #one']],
    ["document.getElementById('say')", ['1 #say']],
    // Values of attributes are texts.
    [`box.querySelector('a[href=".html"] [data-x="#y"]')`, []],
    // Numbers are no names.
    ["el.querySelector('li:nth-child(2) .5')", []],
    ["import './a.js'\nexport const one = document.querySelector('.one')", ['2 .one']],
    // Other functions look for nothing.
    ["text.replace('.a', '#b')", []],
  ])('%s', (script, wanted) => expect(names(script)).toEqual(wanted))

  it('words of other texts are told apart from selectors', () => {
    const read = readScript(
      "el.className = 'own box'; el.innerHTML = `<p id=\"in\">${x}</p>`; q.querySelector('.sought')",
    )
    expect([...(read?.words ?? [])]).toEqual(
      ['own', 'box', 'p', 'id', 'in', 'p'].filter((one, at, all) => all.indexOf(one) === at),
    )
    expect(read?.words.has('sought')).toBe(false)
  })

  it('a script that does not parse is not read', () => expect(readScript('let = (')).toBeUndefined())
})
