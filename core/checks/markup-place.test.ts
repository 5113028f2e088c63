import { expect, it } from 'vitest'
import { placeOfMarkup } from './markup-place.ts'

const TEXTS = new Map([
  ['card', '<article>\n  <h2><a href="{{ url }}">{{ post.title }}</a></h2>\n  <p>{{ text }}</p>\n</article>'],
  ['aside', '<ul>{% for one in all %}<li><a href="{{ url }}">{{ one }}</a></li>{% endfor %}</ul>'],
  ['layout', '<html lang="{{ language }}">\n<body class="{{ kind }}">'],
])

it.each([
  ['<h2><a href="/posts/zip">Zip surgery</a></h2>', 'card', 2],
  ['<h2><a href="/posts/zip"></a></h2>', 'card', 2],
  ['<li><a href="/x"></a></li>', 'aside', 1],
  ['<html lang="en">\n<body class="wide">', 'layout', 1],
  ['<body class="wide"><p>', 'layout', 2],
])('%s is printed by %s, line %i', (markup, document, line) => {
  expect(placeOfMarkup(TEXTS, markup)).toEqual({ document, line })
})

it.each(['<table><tr>', 'text', '<a href="/x">'])('%s has no certain place', (markup) => {
  expect(placeOfMarkup(TEXTS, markup)).toBe(null)
})

it('the second tag of the markup can be on another line', () => {
  expect(placeOfMarkup(TEXTS, '<article>\n  <h2><a href="/x">', 1)).toEqual({ document: 'card', line: 2 })
})
