// Markup that templates repeat.
import { describe, expect, it } from 'vitest'
import { demo } from '../../testing/demo.ts'
import { repeatsIn } from './repeats.ts'

const card = [
  '<article class="card">',
  '  <h2><a href="{{ \'post\' | url: slug: post.slug }}">{{ post.title }}</a></h2>',
  '  <p>{{ post.excerpt | excerpt: 120 }}</p>',
  '</article>',
]
const page = (...lines: string[]) => lines.join('\n')

describe('repeated markup', () => {
  it('is found in another template, however it is indented', () => {
    const texts = new Map([
      ['pages/home', page('<main>', ...card, '</main>')],
      ['pages/listing', page('<ul>', '', ...card.map((line) => `    ${line}`), '</ul>')],
    ])
    expect(repeatsIn('pages/home', texts)).toEqual([
      {
        from: 2,
        to: 5,
        others: [{ template: 'pages/listing', from: 3, to: 6 }],
        characters: expect.any(Number) as number,
      },
    ])
  })
  it('is found in the template itself, once for each place', () => {
    const texts = new Map([['pages/home', page(...card, '<hr class="between">', ...card)]])
    expect(repeatsIn('pages/home', texts).map(({ from, to, others }) => [from, to, others[0]?.from])).toEqual(
      [
        [1, 4, 6],
        [6, 9, 1],
      ],
    )
  })
  it.each<[string, string[]]>([
    ['short markup', ['<p class="a">b</p>']],
    ['text', Array.from({ length: 9 }, () => 'the same words on every line of the page')],
  ])('does not include %s', (_, lines) => {
    const texts = new Map([
      ['pages/home', page('<main>', ...lines)],
      ['pages/listing', page('<ul>', ...lines)],
    ])
    expect(repeatsIn('pages/home', texts)).toEqual([])
  })
  it('of lines in another order is only found as far as it is long enough', () => {
    const texts = new Map([
      ['pages/home', page(...card)],
      ['pages/listing', page(...card.toReversed())],
    ])
    expect(repeatsIn('pages/home', texts)).toEqual([])
  })
  it('is found in the demo in one place: the link to the category', () => {
    const texts = new Map(
      [...demo].flatMap(([path, text]) =>
        path.startsWith('templates/') ? [[path.replace(/^templates\/|\.liquid$/g, ''), text] as const] : [],
      ),
    )
    const found = [...texts.keys()].flatMap((name) =>
      repeatsIn(name, texts).map(({ from, others }) => [name, from, ...others.map((one) => one.template)]),
    )
    expect(found).toEqual([
      ['pages/post', 9, 'partials/card'],
      ['partials/card', 5, 'pages/post'],
    ])
  })
})
