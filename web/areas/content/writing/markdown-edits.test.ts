// The toolbar's edits: each line reads as text before, selection between « and », text after.
import MarkdownIt from 'markdown-it'
import { describe, expect, it } from 'vitest'
import { block, heading, image, link, surround, type Edit, type Selection } from './markdown-edits.ts'

function apply(marked: string, edit: (text: string, selection: Selection) => Edit): string {
  const from = marked.indexOf('«')
  const to = marked.indexOf('»') - 1
  const text = marked.replace(/[«»]/g, '')
  const { from: start, to: end, insert, select } = edit(text, { from, to })
  const after = text.slice(0, start) + insert + text.slice(end)
  return `${after.slice(0, select.from)}«${after.slice(select.from, select.to)}»${after.slice(select.to)}`
}
const bold = (text: string, at: Selection) => surround(text, at, '**', 'bold')

describe('the toolbar', () => {
  it.each([
    ['a «word» here', 'a **«word»** here', bold],
    ['a **«word»** here', 'a «word» here', bold],
    ['a «» here', 'a **«bold»** here', bold],
    ['one\n«two»\nthree', 'one\n## two«»\nthree', (text: string, at: Selection) => heading(text, at, 2)],
    ['### «two»', '## two«»', (text: string, at: Selection) => heading(text, at, 2)],
    ['## tw«»o', 'two«»', (text: string, at: Selection) => heading(text, at, 2)],
    [
      'see «this [one]»',
      'see [«this \\[one\\]»](/posts/a)',
      (text: string, at: Selection) => link(text, at, '/posts/a'),
    ],
    [
      'text«»',
      'text\n\n![«alt text»](/media/a.svg)\n',
      (text: string, at: Selection) => image(text, at, '/media/a.svg'),
    ],
    ['«let x»', '```\n«let x»\n```\n', (text: string, at: Selection) => block(text, at, 'code')],
    [
      'text\n«»',
      'text\n\n| «column» | column |\n|---|---|\n| cell | cell |\n',
      (text: string, at: Selection) => block(text, at, 'table'),
    ],
  ])('%j becomes %j', (before, after, edit) => {
    expect(apply(before, edit)).toBe(after)
  })
  it('makes what Markdown reads as that', () => {
    const html = (marked: string, edit: (text: string, at: Selection) => Edit) =>
      new MarkdownIt('commonmark').enable('table').render(apply(marked, edit).replace(/[«»]/g, ''))
    expect(html('a «word»', bold)).toContain('<strong>word</strong>')
    expect(html('text«»', (text, at) => block(text, at, 'table'))).toMatch(/<p>text<\/p>\n<table>/)
    expect(html('a «b]c»', (text, at) => link(text, at, '/x'))).toContain('<a href="/x">b]c</a>')
  })
})
