import { expect, it } from 'vitest'
import { MarkupPlaces } from './markup-place.ts'

const PLACES = new MarkupPlaces(
  new Map([
    [
      'card',
      '<article>\n  <h2><a href="{{ url }}">{{ post.title }}</a></h2>\n  <p>{{ text }}</p>\n</article>',
    ],
    ['aside', '<ul>{% for one in all %}<li><a href="{{ url }}">{{ one }}</a></li>{% endfor %}</ul>'],
    ['layout', '<html lang="{{ language }}">\n<body class="{{ kind }}">'],
  ]),
)

it.each([
  ['<h2><a href="/posts/zip">Zip surgery</a></h2>', 'card', 2],
  ['<h2><a href="/posts/zip"></a></h2>', 'card', 2],
  ['<li><a href="/x"></a></li>', 'aside', 1],
  ['<html lang="en">\n<body class="wide">', 'layout', 1],
  ['<body class="wide"><p>', 'layout', 2],
])('%s is printed by %s, line %i', (markup, document, line) => {
  expect(PLACES.find(markup)).toEqual({ document, line })
})

it.each(['<table><tr>', 'text', '<a href="/x">'])('%s has no certain place', (markup) => {
  expect(PLACES.find(markup)).toBe(null)
})

it('the second tag of the markup can be on another line', () => {
  expect(PLACES.find('<article>\n  <h2><a href="/x">', 1)).toEqual({ document: 'card', line: 2 })
})

it('spaces that a tag of the template takes away are not compared', () => {
  const places = new MarkupPlaces(
    new Map([
      [
        'comment',
        '<p class="who">\n  {%- if face %}<img class="face" src="{{ face }}">  {%- endif %}\n  <b>{{ name }}</b>',
      ],
      ['preview', '<p class="who"><b>{{ name }}</b>'],
    ]),
  )
  const image = '<p class="who"><img class="face" src="/a.svg">\n  <b>Gil</b>'
  expect(places.find(image, 1)).toEqual({ document: 'comment', line: 2 })
  expect(places.find('<p class="who"><b>Gil</b>')).toEqual({ document: 'preview', line: 1 })
})

it('equal tags have a place only if they are on one line', () => {
  const places = new MarkupPlaces(
    new Map([['t', '<i class="{{ a }}"></i><i class="{{ a }}"></i>\n<b>x</b>\n<b>x</b>']]),
  )
  expect(places.find('<i class="x"></i>')).toEqual({ document: 't', line: 1 })
  expect(places.find('<b>x</b>')).toBe(null)
})

it('a tag whose name is printed has a place', () => {
  const places = new MarkupPlaces(new Map([['t', '<p>\n<h{{ level }} class="title">']]))
  expect(places.find('<h2 class="title">')).toEqual({ document: 't', line: 2 })
})
