// Markdown that readers see as it was typed, and what only looks like it.
import { expect, it } from 'vitest'
import { markdownFaults } from './markdown-faults.ts'

const found = (text: string) => markdownFaults(text).map(({ kind, line, typed }) => [kind, line, typed])

it.each<[string, string, number, string]>([
  ['Text\n\n```js\ncode\n\n## Next', 'fence-open', 3, '```js'],
  ['~~~~\ncode\n~~~', 'fence-open', 1, '~~~~'],
  ['See [the sign] (/posts).', 'link-typed', 1, '[the sign] (/posts)'],
  ['One\ntwo [us](javascript:alert(1)).', 'link-typed', 2, '[us](javascript:alert'],
  ['It is **not closed.', 'emphasis-typed', 1, '**not closed.'],
  ['Welcome to {{ blog.title }}.', 'template-typed', 1, '{{ blog.title }}'],
  ['{% if true %}', 'template-typed', 1, '{% if true %}'],
  ['A\n\n![ ](/media/a.png)', 'image-unnamed', 3, '![](/media/a.png)'],
  [' \n', 'text-empty', 1, ''],
  ['A note[^1].', 'link-typed', 1, '[^1]'],
  ['Text\n\n##Heading', 'block-typed', 3, '##Heading'],
  ['| a | b |\n|---|\n| 1 | 2 |', 'block-typed', 2, '|---|'],
  ['Things:\n-one\n-two', 'block-typed', 1, '-one'],
])('%j has a fault', (text, kind, line, typed) => {
  expect(found(text)).toEqual([[kind, line, typed]])
})

it.each([
  '```\ncode [a] (/b) {{ c }}\n```',
  '> ```\n> code\n> ```',
  '~~~\n```\n~~~',
  '    {{ indented.code }}',
  'Use `{{ post.title }}` and `**` there.',
  'See [the sign](/posts) (open). An array: a[0] (first). [x] (see below)',
  '2 ** 3, a ** b, **bold** and 5 * 3',
  '#repair is a word, and -1 or +2 are numbers\n-3',
  '- [x] done\n- [ ] not (yet)',
  '![A saddle](/media/a.png)',
  'A note[^1].\n\n[^1]: The note.',
])('%j has none', (text) => {
  expect(found(text)).toEqual([])
})

it('long texts take time in proportion to their length', () => {
  for (const part of ['[a] (/', '**a ', '{{ ', '![', '```\n'])
    expect(markdownFaults(part.repeat(20_000)).length).toBeGreaterThanOrEqual(0)
})
